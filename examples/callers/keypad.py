#!/usr/bin/env python3
"""Plays a telephone call at a keypad inlet: the call begins, then the keys are pressed, and what is read out is printed.

Settings: URL, the inlet's address; KEY; KEYS, what is pressed, in order: "2580 1 1".
"""
import json, os, urllib.request, uuid

call = f"call-{uuid.uuid4()}"
headers = {"Authorization": "Bearer " + os.environ["KEY"], "Content-Type": "application/json"}
for digits in [None, *os.environ["KEYS"].split()]:
    pressed = {"call": call} if digits is None else {"call": call, "digits": digits}
    request = urllib.request.Request(os.environ["URL"], json.dumps(pressed).encode(), headers)
    with urllib.request.urlopen(request, timeout=15) as response:
        answer = json.load(response)
    print(answer["say"])
    if answer["end"]:
        break
