#!/bin/sh
# Raw path and full path in one run, as ratios.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/main.js "$@"
