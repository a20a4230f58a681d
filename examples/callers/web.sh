#!/bin/sh
# Switches a channel through a web inlet, and waits for the outcome.
# Settings: URL, the inlet's address, like http://127.0.0.1:4180/in/hall-tablet; KEY; TARGET; ACTION.
set -eu
curl -sS --fail-with-body -X POST "$URL" -H "Authorization: Bearer $KEY" -H 'Content-Type: application/json' \
  -H 'Prefer: wait=10' -H "Idempotency-Key: $(cat /proc/sys/kernel/random/uuid)" --retry 3 \
  -d "{\"target\": \"$TARGET\", \"action\": \"$ACTION\", \"sender\": \"example in shell\"}"
