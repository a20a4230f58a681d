#!/bin/sh
# The service beside itself: with other flags, on another Node.js, from another checkout.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/variants.js "$@"
