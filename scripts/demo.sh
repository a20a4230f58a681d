#!/bin/sh
# The whole thing with demo data, until Ctrl-C. Servers are installed while npm works, the console is built while they start.
. "$(dirname "$0")/prepare.sh"
install_servers postgresql mosquitto openssl &
servers=$!
install_packages
wait $servers
hand_signals_on node packages/rig/src/demo/main.ts "$@"
