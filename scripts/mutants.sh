#!/usr/bin/env bash
# Changes conditions of the core, the store and the public side at random, one at a time, and
# says which changes no test noticed.
#   mutants.sh [HOW MANY] [SEED]
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql
LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/test fast)
export LAZO_TEST_DATABASE_URL
trap "rm -rf core/*/testdata/rapid" EXIT # what random tests keep of a failure is that of a change
export RAPID_SEED=${RAPID_SEED:-20261126}
go run ./scripts/mutants -n "${1:-40}" ${2:+-seed "$2"} core store web/respond
