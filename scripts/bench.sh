#!/usr/bin/env bash
# The benchmarks of docs/benchmarks.md, against a private PostgreSQL with durability on; with
# --short each runs once, which shows that they run at all.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql
long=(-run '^$' -bench .)
[ "${1:-}" != --short ] || long+=(-benchtime 1x)
go test ./core/engine "${long[@]}" -benchmem
go test ./core/proof "${long[@]}"
(cd bench && go test "${long[@]}")
LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/bench)
export LAZO_TEST_DATABASE_URL
trap 'bash scripts/postgres.sh stop .run/bench' EXIT
go test ./web "${long[@]}"
go test ./notify/paper "${long[@]}"
