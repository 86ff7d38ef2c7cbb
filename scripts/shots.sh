#!/usr/bin/env bash
# Serves a fresh demo of its own and takes docs/screenshots from it.
set -euo pipefail
export LANTERNROW_RUN=$PWD/.run/shots LANTERNROW_ADDRESS=127.0.0.1:8091 LANTERNROW_SCHEDULES=false
bin/lanternrow stop
scripts/reset.sh
bin/lanternrow demo >/dev/null 2>&1 &
server=$!
trap 'kill $server; wait $server || true' EXIT
for _ in $(seq 240); do
	node -e "fetch('http://$LANTERNROW_ADDRESS/api/v1/health').then(r=>process.exit(r.ok?0:1),()=>process.exit(1))" && break
	sleep 0.5
done
mkdir -p docs/screenshots
(cd e2e && node shots.mjs "http://$LANTERNROW_ADDRESS" ../docs/screenshots "$@")
