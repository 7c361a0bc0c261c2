# Shared by the commands: finding tools, building, and a PostgreSQL cluster of our own.

say() { printf '%s\n' "$*"; }
fail() { printf 'posttide: %s\n' "$*" >&2; exit 1; }

export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1 DOTNET_CLI_UI_LANGUAGE=en MSBUILDDISABLENODEREUSE=1

need_tools() {
  command -v dotnet >/dev/null || fail "the .NET SDK (10.0 or newer) is needed; see https://dotnet.microsoft.com"
  command -v node >/dev/null || fail "Node.js (20 or newer) with npm is needed; see https://nodejs.org"
}

# install_debian PACKAGE… : installs what is missing from Debian, with root or sudo.
install_debian() {
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f '${db:Status-Status}' "$package" 2>/dev/null | grep -q '^installed$' || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return
  command -v apt-get >/dev/null || fail "these packages are needed and this is not Debian: ${missing[*]}"
  local as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null || fail "these Debian packages are needed: ${missing[*]}. Install them as root, then run this again."
    as_root=(sudo)
  fi
  say "Installing from Debian: ${missing[*]}"
  # No cluster of its own is wanted from the PostgreSQL package: ours is made beside it.
  "${as_root[@]}" mkdir -p /etc/postgresql-common
  [ -e /etc/postgresql-common/createcluster.conf ] || echo 'create_main_cluster = false' | "${as_root[@]}" tee /etc/postgresql-common/createcluster.conf >/dev/null
  "${as_root[@]}" apt-get update -qq
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

# stamp FILE PATH… : true when nothing under the paths is newer than the file.
fresh_since() {
  local stamp=$1
  shift
  [ -e "$stamp" ] && [ -z "$(find "$@" \( -name bin -o -name obj -o -name node_modules -o -name dist \) -prune -o -type f -newer "$stamp" -print -quit 2>/dev/null)" ]
}

build_web() {
  mkdir -p "$state"
  if [ ! -e "$root/web/node_modules/.package-lock.json" ] || [ "$root/web/package-lock.json" -nt "$root/web/node_modules/.package-lock.json" ]; then
    say "Installing the front end's packages"
    (cd "$root/web" && npm ci --no-audit --no-fund --loglevel=error)
  fi
  if ! fresh_since "$state/web.built" "$root/web" || [ ! -e "$root/web/dist/index.html" ]; then
    say "Building the front end"
    (cd "$root/web" && npm run --silent build) || fail "the front end does not build"
    touch "$state/web.built"
  fi
}

build_server() {
  mkdir -p "$state"
  if ! fresh_since "$state/server.built" "$root/src" "$root/Directory.Build.props" "$root/Directory.Packages.props" ||
    [ ! -e "$root/src/PostTide.Server/bin/Release/net10.0/PostTide.Server.dll" ]; then
    say "Building the server"
    local project
    for project in Server Cli; do
      dotnet build "$root/src/PostTide.$project" -c Release --nologo -v quiet "-clp:ErrorsOnly;NoSummary" || fail "the server does not build"
    done
    touch "$state/server.built"
  fi
}

build_all() { build_web; build_server; }

program() { printf '%s/src/PostTide.%s/bin/Release/net10.0/PostTide.%s.dll' "$root" "$1" "$1"; }

# free_port WANTED : the wanted port, or a free one when it is taken.
free_port() {
  node -e '
    const net = require("net");
    const tryPort = (port) => new Promise((done) => {
      const s = net.createServer().once("error", () => done(0)).once("listening", () => { const p = s.address().port; s.close(() => done(p)); });
      s.listen(port, "127.0.0.1");
    });
    tryPort(Number(process.argv[1])).then(async (p) => console.log(p || (await tryPort(0))));
  ' "$1"
}

pg_bin() {
  local found
  found=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -1)
  [ -n "$found" ] || found=$(dirname "$(command -v initdb)")
  printf '%s' "$found"
}

# PostgreSQL refuses to run as root; then the account its package made runs it.
as_pg() {
  if [ "$(id -u)" -eq 0 ]; then (cd / && exec runuser -u postgres -- "$@"); else "$@"; fi
}

# pg_folder NAME : where a cluster lies: under .posttide, or beside the machine's data when that account cannot get there.
pg_folder() {
  local folder="$state/$1"
  mkdir -p "$folder"
  if [ "$(id -u)" -eq 0 ]; then
    chown postgres "$folder"
    if ! as_pg test -w "$folder" 2>/dev/null; then
      folder="/var/lib/posttide/$(printf '%s' "$root" | cksum | cut -d' ' -f1)/$1"
      mkdir -p "$folder"
      chown postgres "$folder"
    fi
  fi
  printf '%s' "$folder"
}

# pg_start FOLDER PORT [SETTING…] : makes the cluster if there is none, and starts it on loopback.
pg_start() {
  local folder=$1 port=$2 bin settings=""
  shift 2
  bin=$(pg_bin)
  if [ ! -e "$folder/data/PG_VERSION" ]; then
    as_pg "$bin/initdb" -D "$folder/data" -U posttide -A trust -E UTF8 --locale=C.UTF-8 >/dev/null || fail "PostgreSQL could not make its data folder in $folder"
  fi
  local setting
  for setting in "$@"; do settings+=" -c $setting"; done
  as_pg "$bin/pg_ctl" -D "$folder/data" -w -t 60 -l "$folder/log" \
    -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories=$folder$settings" start >/dev/null ||
    { tail -5 "$folder/log" >&2; fail "PostgreSQL did not start"; }
}

pg_stop() { as_pg "$(pg_bin)/pg_ctl" -D "$1/data" -m fast -w stop >/dev/null 2>&1 || true; }

pg_running() { as_pg "$(pg_bin)/pg_ctl" -D "$1/data" status >/dev/null 2>&1; }

connection() { printf 'Host=127.0.0.1;Port=%s;Username=posttide;Database=%s' "$1" "$2"; }

# wait_for URL SECONDS PID : until the address answers, or the process is gone.
wait_for() {
  local i
  for ((i = 0; i < $2 * 5; i++)); do
    node -e 'fetch(process.argv[1]).then((r) => process.exit(r.status < 500 ? 0 : 1), () => process.exit(1))' "$1" 2>/dev/null && return 0
    kill -0 "$3" 2>/dev/null || return 1
    sleep 0.2
  done
  return 1
}
