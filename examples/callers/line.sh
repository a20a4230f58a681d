#!/bin/sh
# Types a phrase at a line inlet: the key first, then the phrase, then bye. Needs socat.
# Settings: HOST, PORT; KEY; PHRASE.
set -eu
printf '%s\n' "$KEY" "$PHRASE" bye | socat -t 20 - "TCP:${HOST:-127.0.0.1}:$PORT"
