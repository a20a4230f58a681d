#!/bin/sh
# The service beside what one would write instead in an evening, and what is left of both when they are killed.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/instead.js "$@"
