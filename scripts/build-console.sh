#!/bin/sh
# Builds the console, if anything that it is made of has changed.
. "$(dirname "$0")/prepare.sh"
install_packages
build_console
