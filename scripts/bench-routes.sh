#!/bin/sh
# What finding a route costs, at 10, 1 000 and 100 000 routes.
. "$(dirname "$0")/prepare.sh"
install_packages
build
exec node bench/dist/routes.js "$@"
