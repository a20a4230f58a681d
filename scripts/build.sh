#!/bin/sh
# Builds what packages hold: JavaScript of every package, the command line in few files, the console.
. "$(dirname "$0")/prepare.sh"
install_packages
npx --no-install tsc -b
npm run --silent build --workspace @bold-relay/cli
build_console compressed
