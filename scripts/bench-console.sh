#!/bin/sh
# What the console costs a phone and a desk, and how a busy board keeps up.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto chromium openssl
# It asks for a newer Node.js than ours, and brings it; so it stands apart.
[ -d bench/lighthouse/node_modules/lighthouse ] ||
  (cd bench/lighthouse && npm ci --engine-strict=false --no-audit --no-fund --loglevel=error)
exec node bench/dist/console.js "$@"
