#!/usr/bin/env bash
# Starts the version before on the schema of this one, and brings one up to date under
# load, against a private PostgreSQL.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql
LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/upgrade fast)
export LAZO_TEST_DATABASE_URL LAZO_UPGRADE=1
trap 'bash scripts/postgres.sh stop .run/upgrade' EXIT
go test ./web -v -run 'TheLastVersion|BroughtUpToDate'
