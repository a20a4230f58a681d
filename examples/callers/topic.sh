#!/bin/sh
# Publishes to a topic inlet, and waits for its answer on a response topic (MQTT 5). Needs mosquitto-clients.
# The inlet needs settings: { answer: true }.
# Settings: BROKER, PORT, MQTT_USER, MQTT_PASSWORD; TOPIC; PAYLOAD.
set -eu
answer=answers/$(cat /proc/sys/kernel/random/uuid)
mosquitto_rr -V 5 -h "${BROKER:-127.0.0.1}" -p "${PORT:-1883}" ${MQTT_USER:+-u "$MQTT_USER" -P "$MQTT_PASSWORD"} \
  -q 1 -W 15 -t "$TOPIC" -e "$answer" -m "$PAYLOAD"
