#!/usr/bin/env python3
"""Sends an event to a hook inlet, signed by Standard Webhooks: HMAC-SHA256 over "id.timestamp.body".

Settings: URL, the inlet's address; SECRET, whsec_…, from `bold-relay inlet secret NAME`; EVENT, a JSON object.
"""
import base64, hashlib, hmac, os, time, urllib.error, urllib.request, uuid

event = os.environ["EVENT"]
message_id = f"msg_{uuid.uuid4()}"  # the same id with a second try: nothing happens twice
now = str(int(time.time()))
key = base64.b64decode(os.environ["SECRET"].removeprefix("whsec_"))
signed = hmac.new(key, f"{message_id}.{now}.{event}".encode(), hashlib.sha256).digest()
headers = {
    "Content-Type": "application/json",
    "Prefer": "wait=10",
    "webhook-id": message_id,
    "webhook-timestamp": now,
    "webhook-signature": "v1," + base64.b64encode(signed).decode(),
}
try:
    with urllib.request.urlopen(urllib.request.Request(os.environ["URL"], event.encode(), headers), timeout=15) as answer:
        print(answer.read().decode())
except urllib.error.HTTPError as error:
    raise SystemExit(error.read().decode())
