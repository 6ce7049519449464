#!/usr/bin/env bash
# Attacks the application at length, against a private PostgreSQL: readers against twenty
# forms in three editions, every role at every address, secrets that are made up, what is
# sensitive in thousands of random forms, and batches of letters.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql
LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/attack fast)
export LAZO_TEST_DATABASE_URL LAZO_ATTACK=1
trap 'bash scripts/postgres.sh stop .run/attack' EXIT
go test -count=1 -v ./web/attack | grep -v "^=== "
go test -count=1 -v ./web -run 'MadeUp|NoRouteFails|OthersGetNothing|RolesHold|TestLimitsCount|OfManySignIns' | grep -v "^=== "
go test -count=1 ./core/engine -run 'WhatIsSensitive' -rapid.checks=5000
go test -count=1 ./store -run 'LimitsHold' -rapid.checks=500
