#!/usr/bin/env bash
# What the desk makes people wait for with very many responses of one form; laid out once.
#   bench-scale.sh [HOW MANY]     a million unless it says otherwise
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql
url=$(bash scripts/postgres.sh start .run/scale)
trap 'bash scripts/postgres.sh stop .run/scale' EXIT
go run ./scripts/scale "$url" "${1:-1000000}"
