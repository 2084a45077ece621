# Shared by ./start, ./test, ./kettle and ./benchmark: what a fresh machine needs, the build, PostgreSQL.
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root"
mkdir -p var
export MAVEN_OPTS="${MAVEN_OPTS:--Xmx1500m}"

say() { printf '%s\n' "$*" >&2; }
die() { say "$*"; exit 1; }

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi
}

# need COMMAND PACKAGE ...: installs the Debian packages of commands that are missing
need() {
  local missing=()
  while [ $# -gt 0 ]; do
    command -v "$1" >/dev/null 2>&1 || [ -x "$1" ] || missing+=("$2")
    shift 2
  done
  [ ${#missing[@]} = 0 ] && return
  say "installing ${missing[*]}"
  as_root apt-get update -qq >/dev/null 2>&1 || true
  DEBIAN_FRONTEND=noninteractive as_root apt-get install -y -qq --no-install-recommends "${missing[@]}" >var/apt.log 2>&1 \
    || { tail -5 var/apt.log >&2; die "could not install ${missing[*]}: see var/apt.log"; }
}

need_java() { need javac openjdk-17-jdk-headless mvn maven; }

need_node() {
  if ! command -v npm >/dev/null 2>&1; then need npm npm node nodejs; fi
  local have
  have=$(node -p 'const [a,b]=process.versions.node.split(".").map(Number); a*100+b' 2>/dev/null || echo 0)
  if [ "$have" -lt 2019 ] && [ ! -x var/node/bin/node ]; then
    say "installing a newer Node"
    local arch=x64
    [ "$(uname -m)" = aarch64 ] && arch=arm64
    npm install --silent --no-audit --no-fund --prefix var/node-package "node-linux-$arch@22.23.3" >var/node.log 2>&1 \
      || npm install --silent --no-audit --no-fund --prefix var/node-package "node@22.23.3" >var/node.log 2>&1 \
      || die "could not install Node 22: see var/node.log"
    mkdir -p var/node/bin
    ln -sf "$(find "$root/var/node-package/node_modules" -path '*bin/node' -type f | head -1)" var/node/bin/node
  fi
}

server_jar=server/target/server-0.1.0-runner.jar
server_classes=server/target/server-classes.jsa
pg_bin=/usr/lib/postgresql/15/bin
need_postgres() { [ -x $pg_bin/initdb ] || need $pg_bin/initdb postgresql; }

# free_port FIRST: the first port from FIRST that nobody listens on
free_port() {
  local port=$1
  while (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; do port=$((port + 1)); done
  echo "$port"
}

# PostgreSQL refuses to run as root: then it runs as the user postgres
pg_user() {
  # from a folder that user can stand in, or each command would complain
  if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi
}

# pg_start NAME FIRST_PORT [OPTIONS]: starts a cluster of its own and sets pg_port, pg_password, pg_dir
pg_start() {
  local name=$1
  pg_dir="$root/var/$name"
  if [ "$(id -u)" = 0 ]; then
    mkdir -p "$pg_dir"
    chown postgres "$pg_dir"
    # a clone under a closed home is no place the user postgres can reach
    if ! runuser -u postgres -- test -w "$pg_dir" 2>/dev/null; then
      pg_dir="/var/tmp/wirekettle-$name-$(printf %s "$root" | cksum | cut -d' ' -f1)"
      mkdir -p "$pg_dir"
      chown postgres "$pg_dir"
    fi
  fi
  local secret="$root/var/$name.password"
  if [ ! -f "$pg_dir/PG_VERSION" ] && ! pg_user test -f "$pg_dir/PG_VERSION"; then
    (umask 077; head -c 18 /dev/urandom | base64 | tr '+/' '-_' >"$secret")
    mkdir -p "$pg_dir"
    local handed
    handed=$(mktemp)
    cat "$secret" >"$handed"
    [ "$(id -u)" != 0 ] || chown postgres "$handed"
    pg_user $pg_bin/initdb -D "$pg_dir" -U admin --auth=scram-sha-256 --pwfile="$handed" -E UTF8 --locale=C.UTF-8 \
      >var/initdb.log 2>&1 || { tail -5 var/initdb.log >&2; die "could not set up PostgreSQL in $pg_dir"; }
    rm -f "$handed"
  fi
  pg_password=$(cat "$secret")
  pg_user $pg_bin/pg_ctl -D "$pg_dir" status >/dev/null 2>&1 && pg_stop
  pg_port=$(free_port "$2")
  pg_user $pg_bin/pg_ctl -D "$pg_dir" -w -s -l "$pg_dir/log" \
    -o "-p $pg_port -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=120 ${3:-}" start >/dev/null \
    || die "PostgreSQL did not start: see $pg_dir/log"
}

pg_stop() { pg_user $pg_bin/pg_ctl -D "$pg_dir" -m fast -s stop >/dev/null 2>&1 || true; }

pg_sql() { PGPASSWORD=$pg_password psql -qAt -h 127.0.0.1 -p "$pg_port" -U admin -v ON_ERROR_STOP=1 "$@"; }

# pg_database NAME ROLE PASSWORD: a database owned by a role of its own
pg_database() {
  [ -n "$(pg_sql -d postgres -c "select 1 from pg_roles where rolname='$2'")" ] || pg_sql -d postgres -c "create role \"$2\" login"
  pg_sql -d postgres -c "alter role \"$2\" password '$3'"
  [ -n "$(pg_sql -d postgres -c "select 1 from pg_database where datname='$1'")" ] || pg_sql -d postgres -c "create database \"$1\" owner \"$2\""
  pg_sql -d postgres -c "revoke connect on database \"$1\" from public"
}

# pg_reader DATABASE OWNER ROLE PASSWORD: a role that may read what the owner has, and nothing else
pg_reader() {
  [ -n "$(pg_sql -d postgres -c "select 1 from pg_roles where rolname='$3'")" ] || pg_sql -d postgres -c "create role \"$3\" login"
  pg_sql -d postgres -c "alter role \"$3\" password '$4'; grant connect on database \"$1\" to \"$3\""
  pg_sql -d "$1" -c "grant usage on schema public to \"$3\"; grant select on all tables in schema public to \"$3\";
    alter default privileges for role \"$2\" grant select on tables to \"$3\""
}

# lay_out_classes: keeps the classes a server loads in the form the JVM has them in memory; it starts in half the time then.
# Needs a PostgreSQL of pg_start. Without the file a server starts as well, only later.
lay_out_classes() {
  [ ! -f $server_classes ] || [ $server_jar -nt $server_classes ] || return 0
  local port data server=
  port=$(free_port 9780)
  data=$(mktemp -d)
  pg_sql -d postgres -c "create database class_layout"
  WIREKETTLE_PORT=$port WIREKETTLE_DATA=$data WIREKETTLE_DB="jdbc:postgresql://127.0.0.1:$pg_port/class_layout" \
    WIREKETTLE_DB_USER=admin WIREKETTLE_DB_PASSWORD=$pg_password \
    java @scripts/server.options -XX:ArchiveClassesAtExit=$server_classes.new -jar $server_jar >var/class-layout.log 2>&1 &
  server=$!
  for _ in $(seq 240); do
    curl -fs "http://127.0.0.1:$port/q/health/ready" >/dev/null 2>&1 && break
    kill -0 $server 2>/dev/null || break
    sleep 0.25
  done
  for path in / /api/desk /api/flows /q/openapi; do curl -s "http://127.0.0.1:$port$path" >/dev/null 2>&1 || true; done
  kill -TERM $server 2>/dev/null || true
  wait $server 2>/dev/null || true
  pg_sql -d postgres -c "drop database class_layout with (force)"
  rm -rf "$data"
  if [ -f $server_classes.new ]; then
    mv $server_classes.new $server_classes
  else
    say "the server's classes could not be laid out (see var/class-layout.log): it starts more slowly"
  fi
}

# again COMMAND LOG: runs a Java server until it ends; one that ran out of memory (exit 3) is started again
again() {
  local server code
  trap 'kill "$server" 2>/dev/null; wait "$server" 2>/dev/null; exit 0' INT TERM
  while true; do
    $1 >>"$2" 2>&1 &
    server=$!
    code=0; wait "$server" || code=$?
    [ "$code" = 3 ] || exit "$code"
    say "the server ran out of memory and is started again (its log: $2; more memory: WIREKETTLE_JAVA=-Xmx2g)"
  done
}

# build MODULE ...: packages modules and what they need, when sources changed
build() {
  local stamp=var/built
  if [ -f $stamp ] && [ -f $server_jar ] && [ -d cli/target/lib ] \
    && [ -z "$(find pom.xml */pom.xml */src web/build.sh web/openapi.json web/package.json web/index.html -newer $stamp -type f 2>/dev/null | head -1)" ]; then
    return
  fi
  say "building (the first time takes some minutes)"
  mvn -q -B -ntp install -DskipTests -pl core,connect,cli,web,server,demo,benchmarks -am >var/build.log 2>&1 \
    || { grep -E 'ERROR|error' var/build.log | head -20 >&2; die "the build failed: see var/build.log"; }
  touch $stamp
}
