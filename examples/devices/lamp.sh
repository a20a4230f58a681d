#!/bin/sh
# A lamp that Bold Relay commands over MQTT, in plain shell. Needs mosquitto-clients and jq.
#
# Settings: BROKER, PORT, MQTT_USER, MQTT_PASSWORD, CLIENT_ID (default: the user), and TOPIC, the channel's: site/device/channel.
# A press of its own button is `kill -USR1 PID`.
#
# It makes a connection for each message that it sends. A broker that binds the client id to the user refuses that.
set -eu
: "${TOPIC:?is missing: site/device/channel}"
here=${TOPIC%/*}/here
boot=$(cat /proc/sys/kernel/random/uuid) # a new one with every power-up
folder=$(mktemp -d)
mkfifo "$folder/in" # commands, the button and the timer arrive here, one line each
trap 'rm -rf "$folder"; kill "$serving" "$receiving" 2>/dev/null' EXIT
trap 'exit 0' INT TERM

# say TOPIC PAYLOAD [-r]
say() {
  topic=$1 payload=$2
  shift 2
  mosquitto_pub -h "${BROKER:-127.0.0.1}" -p "${PORT:-1883}" ${MQTT_USER:+-u "$MQTT_USER" -P "$MQTT_PASSWORD"} \
    -q 1 "$@" -t "$topic" -m "$payload"
}

# switch STATE CAUSE [ID] [MS]: switches the relay, then reports what it is now.
switch() {
  state=$1 cause=$2 # here a real lamp sets its output pin
  [ -z "$timer" ] || kill "$timer" 2>/dev/null || true # a newer command ends the time of an older one
  timer=
  if [ "$state" = on ] && [ -n "${4:-}" ]; then
    (sleep "$(echo "$4" | jq '. / 1000')" && echo timer >"$folder/in") &
    timer=$!
  fi
  say "$TOPIC/is" "$(jq -cn --arg to "$state" --arg by "$cause" --arg id "${3:-}" \
    '{to: $to, by: $by} + if $id == "" then {} else {id: $id} end')" -r
}

# obey JSON: one command.
obey() {
  id=$(echo "$1" | jq -r '.id // empty' 2>/dev/null) || return 0
  [ -n "$id" ] || return 0 # without an id there is nothing to answer
  to=$(echo "$1" | jq -r .to)
  case $to in
    on | off)
      say "$TOPIC/done" "$(jq -cn --arg id "$id" '{id: $id, ok: true, code: 1}')"
      switch "$to" command "$id" "$(echo "$1" | jq -r '.for // empty')"
      ;;
    *) say "$TOPIC/done" "$(jq -cn --arg id "$id" '{id: $id, ok: false, code: 2, why: "on or off"}')" ;;
  esac
}

serve() {
  state=off cause=boot timer= # the power-up rule of this lamp: it starts off
  while read -r line; do
    case $line in
      Subscribed*) # connected, for the first time or again
        say "$here" "{\"up\":true,\"boot\":\"$boot\"}" -r
        switch "$state" "$cause"
        ;;
      hand) switch "$([ "$state" = on ] && echo off || echo on)" hand ;;
      timer) switch off timer ;;
      "{"*) obey "$line" ;;
    esac
  done
}

serve <"$folder/in" &
serving=$!
# The connection that stays: it receives commands, and the broker says its last will when we are gone.
stdbuf -oL mosquitto_sub -d -h "${BROKER:-127.0.0.1}" -p "${PORT:-1883}" -i "${CLIENT_ID:-${MQTT_USER:-$TOPIC}}" \
  ${MQTT_USER:+-u "$MQTT_USER" -P "$MQTT_PASSWORD"} -k 15 -q 1 -t "$TOPIC/do" \
  --will-topic "$here" --will-payload '{"up":false}' --will-qos 1 --will-retain >"$folder/in" &
receiving=$!
trap 'echo hand >"$folder/in"' USR1
while kill -0 $serving 2>/dev/null; do wait $serving || true; done # a press of the button ends a wait
