#!/bin/sh
# How costs grow, each with its exponent.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/growth.js "$@"
