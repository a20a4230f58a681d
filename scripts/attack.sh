#!/bin/sh
# Tries a running installation from the outside: what must be refused.
. "$(dirname "$0")/prepare.sh"
install_packages
exec node packages/soak/src/attack/main.ts "$@"
