#!/bin/sh
# Every list and search that a screen shows, on a journal of millions.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto
exec node bench/dist/journal-size.js "$@"
