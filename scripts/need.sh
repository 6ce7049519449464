#!/usr/bin/env bash
# Installs what is missing from Debian's packages:  need.sh postgresql chromium …
set -euo pipefail
missing=()
for package in "$@"; do
  case $package in
  postgresql) ls -d /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || command -v initdb >/dev/null || missing+=(postgresql) ;;
  chromium-l10n) [ -e /usr/lib/chromium/locales/de.pak ] || missing+=(chromium-l10n) ;;
  pgbouncer) [ -x /usr/sbin/pgbouncer ] || missing+=(pgbouncer) ;;
  poppler-utils) command -v pdftotext >/dev/null || missing+=(poppler-utils) ;;
  *) command -v "$package" >/dev/null || missing+=("$package") ;;
  esac
done
[ ${#missing[@]} -gt 0 ] || exit 0
if [ "$(id -u)" != 0 ]; then
  echo "These Debian packages are missing; please have them installed: ${missing[*]}" >&2
  exit 1
fi
echo "Installing ${missing[*]} …" >&2
export DEBIAN_FRONTEND=noninteractive
# PostgreSQL's package would set up a server of its own; only the programs are wanted.
mkdir -p /etc/postgresql-common
[ -e /etc/postgresql-common/createcluster.conf ] || echo 'create_main_cluster = false' >/etc/postgresql-common/createcluster.conf
apt-get update -qq >/dev/null
apt-get install -y -qq "${missing[@]}" >/dev/null
