#!/usr/bin/env python3
"""Switches a channel through a web inlet, and waits for the outcome.

Settings: URL, the inlet's address, like http://127.0.0.1:4180/in/hall-tablet; KEY; TARGET; ACTION.
"""
import json, os, urllib.error, urllib.request, uuid

body = {"target": os.environ["TARGET"], "action": os.environ["ACTION"], "sender": "example in Python"}
request = urllib.request.Request(
    os.environ["URL"],
    json.dumps(body).encode(),
    {
        "Authorization": "Bearer " + os.environ["KEY"],
        "Content-Type": "application/json",
        "Prefer": "wait=10",
        "Idempotency-Key": str(uuid.uuid4()),  # the same key with a second try: nothing happens twice
    },
)
try:
    with urllib.request.urlopen(request, timeout=15) as response:
        answer = json.load(response)
        print(answer["outcome"])
        for command in answer["commands"]:
            print(command["verdict"]["text"])
except urllib.error.HTTPError as error:  # a refusal says what happened and what to do
    raise SystemExit(json.load(error)["detail"])
