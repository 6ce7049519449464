#!/usr/bin/env bash
# Runs every test against a private PostgreSQL and Debian's Chromium.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql chromium chromium-l10n poppler-utils
LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/test fast)
export LAZO_TEST_DATABASE_URL
trap 'bash scripts/postgres.sh stop .run/test' EXIT
# What decides about a change draws the same cases each time; make soak draws new ones.
export RAPID_SEED=${RAPID_SEED:-20261126}
go test ./core/... ./cmd/...
bash scripts/shared.sh ./store
go test -timeout 30m ./store/... ./notify/... ./demo/... ./web/...
