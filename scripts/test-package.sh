#!/bin/sh
# Builds the packages and tries them: the archive as anybody, the Debian package in a clean Debian, which only root can make.
. "$(dirname "$0")/prepare.sh"
install_servers postgresql mosquitto openssl chromium
if [ "$(id -u)" = 0 ]; then install_servers debootstrap lintian binutils; fi
install_packages
npm run --silent build
exec npx --no-install vitest run --config vitest.package.config.ts "$@"
