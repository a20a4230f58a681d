#!/bin/sh
# Sends an event to a hook inlet, signed by Standard Webhooks: HMAC-SHA256 over "id.timestamp.body".
# Settings: URL, the inlet's address; SECRET, whsec_…, from `bold-relay inlet secret NAME`; EVENT, a JSON object. Needs openssl.
set -eu
id=msg_$(cat /proc/sys/kernel/random/uuid) # the same id with a second try: nothing happens twice
now=$(date +%s)
key=$(printf %s "${SECRET#whsec_}" | openssl base64 -d -A | od -An -v -tx1 | tr -d ' \n')
signature=$(printf %s "$id.$now.$EVENT" | openssl dgst -sha256 -mac HMAC -macopt "hexkey:$key" -binary | openssl base64 -A)
curl -sS --fail-with-body -X POST "$URL" -H 'Content-Type: application/json' -H 'Prefer: wait=10' \
  -H "webhook-id: $id" -H "webhook-timestamp: $now" -H "webhook-signature: v1,$signature" --data-raw "$EVENT"
