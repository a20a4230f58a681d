#!/bin/sh
# Runs a command on the project's Node.js, with its packages installed: scripts/on.sh COMMAND [ARGUMENT…]
. "$(dirname "$0")/prepare.sh"
install_packages
exec "$@"
