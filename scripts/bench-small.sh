#!/bin/sh
# Service, database and broker within 512 MB, under full load.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/small-machine.js "$@"
