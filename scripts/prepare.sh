# Sourced by the other scripts: the right Node.js, the npm packages, the console. Says what it does only when it does it.
set -eu
cd "$(dirname "$0")/.."

# A marker inside node_modules tells for which lock file it was made. npm runs on any Node.js, so that of this machine will do.
install_packages() {
  if [ -n "${installing:-}" ]; then wait "$installing" && installing=; fi
  if [ -f node_modules/.made-for ] && cmp -s package-lock.json node_modules/.made-for; then return; fi
  echo "Installing npm packages; this takes half a minute the first time"
  npm ci --engine-strict=false --no-audit --no-fund --loglevel=error
  cp package-lock.json node_modules/.made-for
}

# Node.js 24 alone is supported. Where the machine's own is another, this folder gets its own copy (packaging/node.json
# has version and checksum), first on the path: also for npm and for everything that is started from here.
wanted=$(sed -n 's/.*"version": "\(.*\)".*/\1/p' packaging/node.json)
if ! node -e 'const [a, b] = process.versions.node.split("."); process.exit(a === "24" && b >= 11 ? 0 : 1)'; then
  if [ ! -x ".node/$wanted/node" ]; then
    echo "Bold Relay runs on Node.js 24; this machine has $(node --version). Fetching $wanted into .node, for this folder only"
    install_packages &
    installing=$!
    node packaging/node.mjs ".node/$wanted"
  fi
  PATH="$PWD/.node/$wanted:$PATH"
  export PATH
fi

# Stripping types and compiling two hundred files again at every start would take a second each time.
export NODE_COMPILE_CACHE="$PWD/node_modules/.compile-cache"

# Debian packages that are missing. Needs no npm packages, so both can be installed at the same time.
install_servers() {
  node packages/rig/src/ensure.ts "$@"
}

# The console is the only part that must be built to run: everything else starts from its sources. `build_console compressed`
# also makes the compressed files that a package sends; on loopback nobody waits for them, and they take half of the time.
build_console() {
  how=${1:-plain}
  stamp=node_modules/.console-built
  if [ -f "$stamp" ] && grep -q "$how\|compressed" "$stamp" && [ -z "$(find packages/console packages/api/src packages/core/src package-lock.json \
      -newer "$stamp" -type f -not -path '*/dist/*' -not -path '*/node_modules/*' -not -path '*/test/*' \
      -print -quit)" ]; then return; fi
  echo "Building the console"
  CONSOLE_FILES=$how npm run --silent build --workspace @bold-relay/console
  echo "$how" > "$stamp"
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
