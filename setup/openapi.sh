#!/usr/bin/env bash
# Writes docs/reference/openapi.json anew from the service; it needs no database.
set -euo pipefail
cd "$(dirname "$0")/.."
home=$(mktemp -d)
trap 'rm -rf "$home"' EXIT
INKWELL_HOME=$home .venv/bin/python -m inkwell_bridge.service spectacular \
    --format openapi-json --file docs/reference/openapi.json --fail-on-warn --validate
