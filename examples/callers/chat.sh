#!/bin/sh
# Posts a chat message to a chat inlet, and prints what is answered.
# Settings: URL, the inlet's address; KEY; ROOM; SENDER; TEXT. Needs jq.
set -eu
jq -cn --arg room "$ROOM" --arg sender "$SENDER" --arg text "$TEXT" '{room: $room, sender: $sender, text: $text}' |
  curl -sS --fail-with-body -X POST "$URL" -H "Authorization: Bearer $KEY" -H 'Content-Type: application/json' \
    -H 'Prefer: wait=10' -d @- | jq -r .reply
