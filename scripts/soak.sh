#!/bin/sh
# Random faults under load, for as long as asked, judged by an independent witness.
. "$(dirname "$0")/prepare.sh"
install_servers postgresql mosquitto
install_packages
exec node packages/soak/src/main.ts "$@"
