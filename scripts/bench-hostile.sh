#!/bin/sh
# The longest that any call holds the event loop, and what a switch waits meanwhile.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/hostile.js "$@"
