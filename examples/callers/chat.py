#!/usr/bin/env python3
"""Posts a chat message to a chat inlet, and prints what is answered.

Settings: URL, the inlet's address; KEY; ROOM; SENDER; TEXT.
"""
import json, os, urllib.error, urllib.request

message = {"room": os.environ["ROOM"], "sender": os.environ["SENDER"], "text": os.environ["TEXT"]}
headers = {
    "Authorization": "Bearer " + os.environ["KEY"],
    "Content-Type": "application/json",
    "Prefer": "wait=10",
}
try:
    request = urllib.request.Request(os.environ["URL"], json.dumps(message).encode(), headers)
    with urllib.request.urlopen(request, timeout=15) as response:
        print(json.load(response)["reply"])
except urllib.error.HTTPError as error:
    raise SystemExit(error.read().decode())
