#!/bin/sh
set -e
if ! getent passwd readyrail >/dev/null; then
	useradd --system --user-group --home-dir /var/lib/readyrail --no-create-home --shell /usr/sbin/nologin readyrail
fi
