#!/bin/sh
# Dumps the database of a fresh demo as test data: later migrations bring it up to date.
# Usage: scripts/found.sh VERSION, the number of the newest migration.
set -eu
cd "$(dirname "$0")/.."
version=$1
LANTERNROW_RUN=$(mktemp -d)/run
LANTERNROW_ADDRESS=127.0.0.1:8094
export LANTERNROW_RUN LANTERNROW_ADDRESS
bin/lanternrow demo >"$LANTERNROW_RUN.log" 2>&1 &
server=$!
trap 'kill $server 2>/dev/null || true; wait $server 2>/dev/null || true; bin/lanternrow stop; scripts/reset.sh' EXIT
until curl -fs "http://$LANTERNROW_ADDRESS/api/v1/health" >/dev/null; do
	kill -0 $server || { cat "$LANTERNROW_RUN.log"; exit 1; }
	sleep 1
done
dump=$(ls /usr/lib/postgresql/*/bin/pg_dump | sort -V | tail -n 1)
mkdir -p internal/platform/migrations/testdata
PGPASSWORD=$(cat "$LANTERNROW_RUN"/postgres.password) "$dump" --host 127.0.0.1 \
	--port "$(cat "$LANTERNROW_RUN"/postgres.port)" --username lanternrow --no-owner lanternrow |
	sed '/^\\\(un\)\{0,1\}restrict /d' | # only the newest psql knows these
	gzip -9n >"internal/platform/migrations/testdata/demo-$version.sql.gz"
