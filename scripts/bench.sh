#!/usr/bin/env bash
# The benchmarks of docs/benchmarks.md, against a private PostgreSQL with durability on.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql
go test ./core/engine -run '^$' -bench . -benchmem
go test ./core/proof -run '^$' -bench .
(cd bench && go test -run '^$' -bench .)
LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/bench)
export LAZO_TEST_DATABASE_URL
trap 'bash scripts/postgres.sh stop .run/bench' EXIT
go test ./web -run '^$' -bench .
go test ./notify/paper -run '^$' -bench .
