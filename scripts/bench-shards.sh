#!/bin/sh
# What a request costs where several instances share the shards.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/shards.js "$@"
