#!/bin/sh
set -e
install -d -m 0700 -o readyrail -g readyrail /var/lib/readyrail
chown root:readyrail /etc/readyrail/readyrail.env
if [ -d /run/systemd/system ]; then
	systemctl daemon-reload
	systemctl enable readyrail
	systemctl restart readyrail
fi
