#!/bin/sh
# Installs what is missing, builds, and runs every test against a real PostgreSQL, broker and browser.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto chromium openssl socat
exec npx --no-install vitest run "$@"
