#!/bin/sh
# How long nobody leads while another instance takes the lead, by number of channels.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/take-up.js "$@"
