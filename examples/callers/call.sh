#!/bin/sh
# Calls one channel by its address through a call inlet, with one argument.
# Settings: URL, the inlet's address; KEY; TARGET, like fennel-hall/stage-bar/left; ARGUMENT, like on or amber.
set -eu
curl -sS --fail-with-body -X POST "$URL/$TARGET" -H "Authorization: Bearer $KEY" -H 'Content-Type: text/plain' --data-raw "$ARGUMENT"
