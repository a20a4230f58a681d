#!/bin/sh
# Builds the packages and tries them: the archive as anybody, the Debian package in a clean Debian, which only root can make.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/ensure.js postgresql mosquitto openssl chromium
if [ "$(id -u)" = 0 ]; then node packages/rig/dist/ensure.js debootstrap lintian binutils; fi
exec npx --no-install vitest run --config vitest.package.config.ts "$@"
