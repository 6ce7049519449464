#!/usr/bin/env bash
# Two copies of the application under load, with slow visitors and hard stops, for ten
# minutes (or what LAZO_ENDURE says), against a private PostgreSQL with durability on.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql
LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/test fast)
export LAZO_TEST_DATABASE_URL LAZO_ENDURE="${LAZO_ENDURE:-10m}"
rm -rf .run/endure
trap 'bash scripts/postgres.sh stop .run/test; bash scripts/postgres.sh stop .run/endure' EXIT
go test ./web -timeout 60m -v -run TwoCopiesEndure
