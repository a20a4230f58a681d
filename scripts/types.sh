#!/bin/sh
# Types of every package, of the console, and of tests and tools.
. "$(dirname "$0")/prepare.sh"
install_packages
PATH="$PWD/node_modules/.bin:$PATH"
tsc -b
tsc -p packages/console
tsc -p tsconfig.test.json
