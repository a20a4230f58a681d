#!/bin/sh
# Plays a telephone call at a keypad inlet: the call begins, then the keys are pressed, and what is read out is printed.
# Settings: URL, the inlet's address; KEY; KEYS, what is pressed, in order: "2580 1 1". Needs jq.
set -eu
call=call-$(cat /proc/sys/kernel/random/uuid)
post() {
  curl -sS --fail-with-body -X POST "$URL" -H "Authorization: Bearer $KEY" -H 'Content-Type: application/json' -d "$1" | jq -r .say
}
post "{\"call\":\"$call\"}"
for digits in $KEYS; do post "{\"call\":\"$call\",\"digits\":\"$digits\"}"; done
