#!/bin/sh
# Three machines in network namespaces: with the demo's sites until Ctrl-C, or with --test under load while each part is lost in turn.
. "$(dirname "$0")/prepare.sh"
install_packages
build_console
case " $* " in
*" --test "*) hand_signals_on node packages/soak/src/cluster/main.ts "$@" ;;
*) hand_signals_on node packages/rig/src/cluster/main.ts "$@" ;;
esac
