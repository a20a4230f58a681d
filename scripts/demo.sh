#!/bin/sh
# The demo in the background and a wait: npm hands a signal to this shell only, which hands it on.
. "$(dirname "$0")/prepare.sh"
install_packages
build
node packages/rig/dist/demo/main.js "$@" &
demo=$!
trap 'kill -TERM $demo 2>/dev/null' TERM HUP
trap 'kill -INT $demo 2>/dev/null' INT
# A signal ends the first wait; the second one waits for the demo to stop everything.
code=0
wait $demo || code=$?
while kill -0 $demo 2>/dev/null; do code=0; wait $demo || code=$?; done
exit $code
