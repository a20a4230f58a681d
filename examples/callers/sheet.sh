#!/bin/sh
# Writes a wish into the sheet that a sheet inlet reads. The sheet is a CSV file in a folder that any web server offers:
#   python3 -m http.server 8080 --directory sheet
# Settings: SHEET, the file; CHANNEL; WANT, like on or 40.
set -eu
[ -s "$SHEET" ] || printf 'id,channel,want\r\n' >"$SHEET"
copy=$(mktemp "$SHEET.XXXXXX")
# A new id: the same may be wanted again. A new file in one move: the service never reads half of it.
{ cat "$SHEET"; printf '%s,"%s",%s\r\n' "$(cat /proc/sys/kernel/random/uuid)" "$CHANNEL" "$WANT"; } >"$copy"
chmod 644 "$copy"
mv "$copy" "$SHEET"
