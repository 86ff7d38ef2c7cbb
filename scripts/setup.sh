#!/usr/bin/env bash
# Installs what is missing from Debian's packages: scripts/setup.sh serve|test
set -euo pipefail

missing=()
need() { # need COMMAND-OR-GLOB PACKAGE
	compgen -G "$1" >/dev/null || command -v "$1" >/dev/null || missing+=("$2")
}

need '/usr/lib/postgresql/*/bin/initdb' postgresql
if [ "${1:-serve}" = test ]; then
	need /usr/bin/chromium chromium
	need cbc coinor-cbc
	need zint zint
	need pdftoppm poppler-utils
	need Rscript r-base-core
	need /usr/lib/R/site-library/survey r-cran-survey
	need '/usr/lib/postgresql/*/bin/pgbench' postgresql-contrib
	need bean-query beancount
	need '/usr/lib/*/faketime/libfaketime.so.1' libfaketime
fi
for tool in go node npm; do
	command -v "$tool" >/dev/null || { echo "Lantern Row needs $tool; install it first." >&2; exit 1; }
done
[ ${#missing[@]} -eq 0 ] && exit 0

echo "Installing from the system's packages: ${missing[*]}" >&2
sudo=
if [ "$(id -u)" -ne 0 ]; then
	sudo=sudo
	command -v sudo >/dev/null || { echo "These packages are missing; have an administrator run: apt-get install ${missing[*]}" >&2; exit 1; }
fi
# No system cluster shall appear: the application runs a private one.
$sudo mkdir -p /etc/postgresql-common/createcluster.d
echo 'create_main_cluster = false' | $sudo tee /etc/postgresql-common/createcluster.d/lanternrow.conf >/dev/null
$sudo apt-get update -qq
$sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
