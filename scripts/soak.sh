#!/bin/sh
# Random faults under load, for as long as asked, judged by an independent witness.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node packages/soak/dist/main.js "$@"
