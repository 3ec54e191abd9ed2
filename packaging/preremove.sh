#!/bin/sh
set -e
# On an upgrade the new one is started in the place of the old.
if [ "$1" = remove ] && [ -d /run/systemd/system ]; then
	systemctl disable --now readyrail
fi
