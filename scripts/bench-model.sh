#!/bin/sh
# A big site, taken on and changed while the service runs.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/model-size.js "$@"
