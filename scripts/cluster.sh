#!/bin/sh
# Three machines in network namespaces: with the demo's sites until Ctrl-C, or with --test under load while each part is lost in turn.
. "$(dirname "$0")/prepare.sh"
install_packages
build
case " $* " in
*" --test "*) node packages/soak/dist/cluster/main.js "$@" & ;;
*) node packages/rig/dist/cluster/main.js "$@" & ;;
esac
cluster=$!
trap 'kill -TERM $cluster 2>/dev/null' TERM HUP
trap 'kill -INT $cluster 2>/dev/null' INT
# A signal ends the first wait; the second one waits until everything is stopped.
code=0
wait $cluster || code=$?
while kill -0 $cluster 2>/dev/null; do code=0; wait $cluster || code=$?; done
exit $code
