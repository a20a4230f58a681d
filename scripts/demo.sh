#!/bin/sh
# The whole thing with demo data, until Ctrl-C.
. "$(dirname "$0")/prepare.sh"
install_packages
build
hand_signals_on node packages/rig/dist/demo/main.js "$@"
