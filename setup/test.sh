#!/usr/bin/env bash
# All checks, then all tests; with --long every moment and size of the slow proofs. With --peers: the tests on two real systems. With --quick: what the core, the ends and the
# client do, for the loop of daily work. With other arguments: pytest alone.
set -euo pipefail
cd "$INKWELL_ROOT"
bin=$INKWELL_ROOT/.venv/bin
[ -x "$bin/node" ] && export PATH=$bin:$PATH

if [ "${1:-}" = --peers ]; then
    # The contract suite on the two real systems; then the story between them, while nobody else places orders.
    shift
    export INKWELL_TEST_PEERS=1
    "$bin/pytest" -q -n 2 --dist loadgroup -k "tryton or vendure" \
        tests/ends/test_contract.py tests/ends/test_books.py tests/ends/test_sales.py "$@"
    exec "$bin/pytest" -q tests/peers "$@"
fi
if [ "${1:-}" = --quick ]; then
    shift
    "$bin/ruff" check --quiet .
    "$bin/mypy" --no-error-summary
    exec "$bin/pytest" -q -n 3 tests/core tests/ends tests/standins tests/client tests/cli/test_rulebook_files.py "$@"
fi
if [ "${1:-}" = --long ]; then
    shift
    export INKWELL_TEST_LONG=1
elif [ $# -gt 0 ]; then
    exec "$bin/pytest" "$@"
fi
echo "Checking: ruff, mypy, import-linter, tsc, eslint, vitest"
"$bin/ruff" check --quiet .
"$bin/mypy" --no-error-summary
"$bin/lint-imports" --no-logo >/dev/null || "$bin/lint-imports"
(cd console && npm run --silent check)
# In the order of the files: else those of few but long tests come last, and two of three processes wait for them.
exec "$bin/pytest" -q -n 3 --dist loadfile --no-loadscope-reorder "$@"
