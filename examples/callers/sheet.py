#!/usr/bin/env python3
"""Offers a sheet with one wish to a sheet inlet, and prints the states that the inlet writes back.

The inlet has settings: { url: http://HOST:PORT/sheet.csv, writeUrl: http://HOST:PORT/states.csv }.
Settings: HOST, PORT; CHANNEL; WANT, like on or 40. The wish is offered from the second look on: what stood there before is only noted.
"""
import os, uuid
from http.server import BaseHTTPRequestHandler, HTTPServer

EMPTY = "id,channel,want\r\n"
WISH = f'{uuid.uuid4()},"{os.environ["CHANNEL"]}",{os.environ["WANT"]}\r\n'
looks = 0


class Sheet(BaseHTTPRequestHandler):
    def do_GET(self):
        global looks
        looks += 1
        self.answer(200, EMPTY if looks == 1 else EMPTY + WISH)

    def do_PUT(self):
        print(self.rfile.read(int(self.headers["Content-Length"])).decode(), flush=True)
        self.answer(204)

    def answer(self, status, text=""):
        self.send_response(status)
        self.send_header("Content-Type", "text/csv; charset=utf-8")
        self.send_header("Content-Length", str(len(text.encode())))
        self.end_headers()
        self.wfile.write(text.encode())

    def log_message(self, *_):
        pass


HTTPServer((os.environ.get("HOST", "127.0.0.1"), int(os.environ["PORT"])), Sheet).serve_forever()
