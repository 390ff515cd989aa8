#!/usr/bin/env bash
# All checks, then all tests. With arguments: pytest alone, with those arguments.
set -euo pipefail
cd "$INKWELL_ROOT"
bin=$INKWELL_ROOT/.venv/bin
[ -x "$bin/node" ] && export PATH=$bin:$PATH

if [ $# -gt 0 ]; then
    exec "$bin/pytest" "$@"
fi
echo "Checking: ruff, mypy, import-linter, tsc, eslint, vitest"
"$bin/ruff" check --quiet .
"$bin/mypy" --no-error-summary
"$bin/lint-imports" --no-logo >/dev/null || "$bin/lint-imports"
(cd console && npm run --silent check)
exec "$bin/pytest" -q -n 2 --dist loadfile
