#!/usr/bin/env bash
# Writes what the guide's commands answer now into docs/guide; they run on a demo of their own.
set -euo pipefail
cd "$(dirname "$0")/.."
INKWELL_ROOT=$PWD .venv/bin/python -m tests.support.guide
