# What this machine must have: Python's packages, PostgreSQL's server, a browser for the tests.
# Sourced by ./inkwell; $root is the checkout.
# shellcheck shell=bash
# shellcheck disable=SC2154

venv=$root/.venv

say() { printf '%s\n' "$*" >&2; }

# Install Debian packages, as root or with sudo; where neither is possible, tell the command.
install_debian() {
    local packages=("$@") front=()
    if [ "$(id -u)" -ne 0 ]; then
        if command -v sudo >/dev/null && { sudo -n true 2>/dev/null || [ -t 0 ]; }; then
            front=(sudo)
        else
            say "These Debian packages are missing and this user may not install them. Run:"
            say "  sudo apt-get update && sudo apt-get install ${packages[*]}"
            exit 69
        fi
    fi
    say "Installing Debian packages: ${packages[*]}"
    local log
    log=$(mktemp)
    if ! { "${front[@]}" apt-get update -q \
        && "${front[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "${packages[@]}"; } \
        >"$log" 2>&1; then
        tail -n 20 "$log" >&2
        say "Installing failed. Run it by hand, then start again:"
        say "  apt-get update && apt-get install ${packages[*]}"
        rm -f "$log"
        exit 69
    fi
    rm -f "$log"
}

find_python() {
    local name
    for name in python3.11 python3.12 python3.13 python3; do
        if command -v "$name" >/dev/null \
            && "$name" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            command -v "$name"
            return
        fi
    done
}

# need_python run|test: the virtual environment with the locked packages of that set.
need_python() {
    local set=$1 stamp=$venv/.inkwell-packages wanted python
    wanted="$set $(cat "$root/requirements/$set.txt" "$root/pyproject.toml" | sha256sum | cut -c1-20)"
    # The tests' set holds all of the other.
    if [ -f "$stamp" ] && { [ "$(cat "$stamp")" = "$wanted" ] || { [ "$set" = run ] && [ "$(cat "$stamp")" = \
        "test $(cat "$root/requirements/test.txt" "$root/pyproject.toml" | sha256sum | cut -c1-20)" ]; }; }; then
        return
    fi
    python=$(find_python)
    if [ -z "$python" ]; then
        install_debian python3 python3-venv
        python=$(find_python)
        [ -n "$python" ] || { say "Python 3.11 or newer is needed."; exit 69; }
    fi
    "$python" -c 'import ensurepip, venv' 2>/dev/null || install_debian python3-venv
    say "Installing Python packages into .venv"
    [ -x "$venv/bin/python" ] || "$python" -m venv "$venv"
    "$venv/bin/pip" install -q --disable-pip-version-check --require-hashes -r "$root/requirements/$set.txt"
    "$venv/bin/pip" install -q --disable-pip-version-check --no-deps --no-build-isolation -e "$root"
    printf '%s' "$wanted" >"$stamp"
}

need_postgresql() {
    compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || command -v initdb >/dev/null && return
    # Debian would make and start a cluster of its own, which nobody asked for.
    local held=/etc/postgresql-common/createcluster.d/inkwell.conf front=()
    [ "$(id -u)" -eq 0 ] || front=(sudo)
    if [ "$(id -u)" -eq 0 ] || sudo -n true 2>/dev/null; then
        "${front[@]}" mkdir -p "$(dirname "$held")"
        echo 'create_main_cluster = false' | "${front[@]}" tee "$held" >/dev/null
    fi
    # The fonts are for reports: without them these have the letters of western Europe alone.
    install_debian postgresql fonts-dejavu-core
    [ ! -e "$held" ] || "${front[@]}" rm -f "$held"
}

# Only the tests need these: a browser with fonts for the names in the demo, and what reads reports (a spreadsheet that
# works their formulas out anew, and the text of their pages).
need_test_programs() {
    local packages=()
    command -v chromium >/dev/null || packages+=(chromium fonts-dejavu-core fonts-vlgothic)
    command -v soffice >/dev/null || packages+=(libreoffice-calc-nogui)
    command -v pdftotext >/dev/null || packages+=(poppler-utils)
    [ "${#packages[@]}" -eq 0 ] || install_debian "${packages[@]}"
}
