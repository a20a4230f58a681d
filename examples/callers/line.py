#!/usr/bin/env python3
"""Types a phrase at a line inlet: the key first, then the phrase, then bye.

Settings: HOST, PORT; KEY; PHRASE.
"""
import os, socket

with socket.create_connection((os.environ.get("HOST", "127.0.0.1"), int(os.environ["PORT"])), timeout=20) as line:
    for text in (os.environ["KEY"], os.environ["PHRASE"], "bye"):
        line.sendall(text.encode() + b"\r\n")
    while piece := line.recv(4096):  # until the inlet has said good-bye
        print(piece.decode(), end="")
