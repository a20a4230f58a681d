#!/bin/sh
# Formatting and lint rules, secrets, imports between packages, typed rules, unused code, words, sizes.
. "$(dirname "$0")/prepare.sh"
install_packages
PATH="$PWD/node_modules/.bin:$PATH"
biome check .
secretlint --maskSecrets "**/*"
depcruise --config .dependency-cruiser.cjs packages bench
eslint .
knip
npm run --silent words
npm run --silent sizes
