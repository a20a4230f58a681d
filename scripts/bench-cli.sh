#!/bin/sh
# How long verbs of the command line take, as multiples of a Node.js that does nothing.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/cli.js "$@"
