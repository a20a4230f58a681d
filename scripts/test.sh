#!/bin/sh
# Installs what is missing and runs every test against a real PostgreSQL, broker and browser.
. "$(dirname "$0")/prepare.sh"
install_servers postgresql mosquitto chromium openssl socat
# What the programs in examples/ are written with.
install_servers curl jq mosquitto-clients gcc libc6-dev libmosquitto-dev libcjson-dev python3 python3-paho-mqtt
install_packages
build_console
exec npx --no-install vitest run "$@"
