# Building the console's pages. Sourced by ./inkwell; $root is the checkout, $venv its environment.
# shellcheck shell=bash
# shellcheck disable=SC2154

# Vite 8 needs Node 20.19 or newer; where the machine has none, it comes from the package registry
# into the virtual environment.
need_node() {
    if node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' 2>/dev/null \
        && command -v npm >/dev/null; then
        return
    fi
    if [ ! -x "$venv/bin/node" ]; then
        say "Installing Node into .venv"
        "$venv/bin/pip" install -q --disable-pip-version-check --require-hashes -r "$root/requirements/node.txt"
    fi
    export PATH=$venv/bin:$PATH
}

build_console() {
    local dist=$root/console/dist wanted
    wanted=$(cd "$root/console" && cat package-lock.json index.html ./*.ts ./*.json ../docs/reference/openapi.json \
        $(find src public -type f ! -name schema.d.ts | LC_ALL=C sort) 2>/dev/null | sha256sum | cut -c1-20)
    [ -f "$dist/.built-from" ] && [ "$(cat "$dist/.built-from")" = "$wanted" ] && return
    need_node
    if [ ! -f "$root/console/node_modules/.installed" ] \
        || ! cmp -s "$root/console/package-lock.json" "$root/console/node_modules/.installed"; then
        say "Installing the console's packages"
        (cd "$root/console" && npm ci --no-audit --no-fund --loglevel=error --no-update-notifier >/dev/null)
        cp "$root/console/package-lock.json" "$root/console/node_modules/.installed"
    fi
    say "Building the console"
    local said
    said=$(cd "$root/console" && npm run --silent build 2>&1) || {
        printf '%s\nThe console could not be built; what is wrong stands above.\n' "$said" >&2
        exit 1
    }
    # Sent as they lie there to browsers that read gzip: nobody compresses them anew for each call.
    find "$dist" -type f \( -name '*.js' -o -name '*.css' -o -name '*.svg' -o -name '*.html' \) -exec gzip -9nk {} +
    printf '%s' "$wanted" >"$dist/.built-from"
}
