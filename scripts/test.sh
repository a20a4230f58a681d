#!/bin/sh
# Installs what is missing, builds, and runs every test against a real PostgreSQL, broker and browser.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto chromium openssl socat
# What the programs in examples/ are written with.
node packages/rig/dist/ensure.js curl jq mosquitto-clients gcc libc6-dev libmosquitto-dev libcjson-dev python3 python3-paho-mqtt
exec npx --no-install vitest run "$@"
