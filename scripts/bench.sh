#!/bin/sh
# One benchmark of bench/src: scripts/bench.sh NAME [OPTION…]. Each prints its figures beside those of a raw path in the same run.
. "$(dirname "$0")/prepare.sh"
install_packages
name=$1
shift
install_servers postgresql mosquitto
if [ "$name" = console ]; then
  install_servers chromium openssl
  build_console compressed
  # It brings a newer audit than we install, so it stands apart.
  [ -d bench/lighthouse/node_modules/lighthouse ] ||
    (cd bench/lighthouse && npm ci --no-audit --no-fund --loglevel=error)
fi
exec node "bench/src/$name.ts" "$@"
