#!/bin/sh
# A slider dragged through 60 positions a second.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/slider.js "$@"
