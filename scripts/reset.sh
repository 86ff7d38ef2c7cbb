#!/usr/bin/env bash
# Removes the private database, wherever its server had to keep it.
set -euo pipefail
run=$(realpath -m "${LANTERNROW_RUN:-.run}")
rm -rf "$run"
name=lanternrow-$(printf %s "$run" | sha256sum | cut -c1-12)
rm -rf "/var/tmp/$name" "/var/lib/$name"
