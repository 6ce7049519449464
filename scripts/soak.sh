#!/usr/bin/env bash
# Runs the random tests for longer, against a private PostgreSQL and Debian's Chromium; with
# --short only a little longer, which shows that they run so.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql chromium chromium-l10n
LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/soak fast)
export LAZO_TEST_DATABASE_URL
trap 'bash scripts/postgres.sh stop .run/soak' EXIT
if [ "${1:-}" = --short ]; then
  go test ./core/engine ./core/form ./core/list ./core/expr -rapid.checks=150 -run 'Random|Laws|Outline'
  LAZO_SOAK=1 go test ./web -run EveryPageShows -rapid.checks=20
  exit
fi
go test ./core/engine ./core/form ./core/list ./core/expr -timeout 60m -rapid.checks=2000
go test ./core/proof -timeout 60m -rapid.checks=1000
LAZO_SOAK=10 go test ./web -timeout 60m -run 'RandomForms|EveryPageShows' -rapid.checks=250
LAZO_SOAK=5 go test ./web/e2e -timeout 60m -run "RandomForms|RandomTypistDesigns"
LAZO_SOAK=1 go test ./web/e2e -timeout 120m -run EveryConditionCanBeSetByHand
