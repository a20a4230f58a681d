#!/usr/bin/env python3
"""Calls one channel by its address through a call inlet, with one argument.

Settings: URL, the inlet's address; KEY; TARGET, like fennel-hall/stage-bar/left; ARGUMENT, like on or amber.
"""
import json, os, urllib.error, urllib.parse, urllib.request

address = os.environ["URL"] + "/" + urllib.parse.quote(os.environ["TARGET"])
headers = {"Authorization": "Bearer " + os.environ["KEY"], "Content-Type": "text/plain"}
try:
    request = urllib.request.Request(address, os.environ["ARGUMENT"].encode(), headers)
    with urllib.request.urlopen(request, timeout=15) as response:
        answer = json.load(response)
        print(answer["outcome"], answer["words"])  # answer["code"] is the device's own
except urllib.error.HTTPError as error:
    raise SystemExit(error.read().decode())
