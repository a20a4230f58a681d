#!/bin/sh
# An archive and a Debian package of what is built, in build/. Options: --arch x64|arm64, --only archive|debian.
. "$(dirname "$0")/prepare.sh"
install_packages
echo "Building"
npm run --silent build
exec node packaging/build.mjs "$@"
