#!/usr/bin/env bash
# Takes the pictures in docs/screenshots from the sample workspace that make demo has running.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh chromium
go run ./web/e2e/shots "${LAZO_URL:-http://127.0.0.1:8080}" docs/screenshots
