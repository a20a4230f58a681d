# Sourced by the other scripts: the right Node.js, the packages, the build. Says what it does only when it does it.
set -eu
cd "$(dirname "$0")/.."

node -e '
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Bold Relay needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
    process.exit(1);
  }'

# A marker inside node_modules tells for which lock file it was made.
install_packages() {
  if [ -f node_modules/.made-for ] && cmp -s package-lock.json node_modules/.made-for; then return; fi
  echo "Installing npm packages; this takes half a minute the first time"
  npm ci --no-audit --no-fund --loglevel=error
  cp package-lock.json node_modules/.made-for
}

# A program in the background and a wait: npm hands a signal to this shell only, which hands it on.
hand_signals_on() {
  "$@" &
  child=$!
  trap 'kill -TERM $child 2>/dev/null' TERM HUP
  trap 'kill -INT $child 2>/dev/null' INT
  # A signal ends the first wait; the second one waits until the program has stopped everything.
  code=0
  wait $child || code=$?
  while kill -0 $child 2>/dev/null; do code=0; wait $child || code=$?; done
  exit $code
}

build() {
  stamp=node_modules/.built
  if [ -f "$stamp" ] && [ -z "$(find packages bench tsconfig.base.json -newer "$stamp" -type f \
      -not -path '*/dist/*' -not -path '*/node_modules/*' -print -quit)" ]; then return; fi
  echo "Building"
  npm run --silent build
  touch "$stamp"
}
