#!/bin/sh
# What the parts of a request cost at least, each alone.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/least.js "$@"
