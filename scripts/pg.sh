#!/usr/bin/env bash
# pg.sh start|stop|status|port: the project's own PostgreSQL on 127.0.0.1, a port of its own. The product is the role
# upper_tray, which owns its database and is nobody else's master (password in var/pgpass); this script is the role app.
# Data in var/pg/data, or below /var/lib/upper-tray where the database's user cannot reach var.
set -euo pipefail; umask 077
VAR=${UPPER_TRAY_VAR:-$(cd "$(dirname "$0")/.." && pwd)/var}; HOME_OF_DATA=$VAR/pg; DATA=$HOME_OF_DATA/data
BIN=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -1) || { echo "apt-get install postgresql" >&2; exit 1; }
mkdir -p -m 755 "$VAR"; mkdir -p "$HOME_OF_DATA"
reachable() { setpriv --reuid=postgres --regid="$(id -g postgres)" --init-groups test -x "$VAR"; }
if [ "$(id -u)" = 0 ] && [ ! -e "$DATA" ] && ! reachable; then   # a clone below a folder that only root may enter
  HOME_OF_DATA=/var/lib/upper-tray/$(printf %s "$VAR" | sha1sum | cut -c1-12); DATA=$HOME_OF_DATA/data
  mkdir -p -m 755 /var/lib/upper-tray; mkdir -p "$HOME_OF_DATA"
fi
if [ "$(id -u)" = 0 ]; then                                   # postgres refuses root: drop to the data's owner
  OWNER=$(stat -c %U "$DATA" 2>/dev/null || echo postgres); chown "$OWNER" "$HOME_OF_DATA"
  run() { (cd / && exec setpriv --reuid="$OWNER" --regid="$(id -g "$OWNER")" --init-groups env HOME=/ "$@"); }
else run() { (cd / && exec "$@"); }; fi
run test -w "$HOME_OF_DATA" || { echo "$HOME_OF_DATA: not writable (owner, or a parent folder without x)" >&2; exit 1; }
taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }
port() {                                                      # chosen once: the first that nobody listens on
  [ -s "$VAR/pgport" ] || { local p=${PGPORT:-54329}; while taken "$p"; do p=$((p + 1)); done; echo "$p" >"$VAR/pgport"; }
  cat "$VAR/pgport"
}
running() { local p; p=$(head -1 "$DATA/postmaster.pid" 2>/dev/null) && [ "$(cat "/proc/$p/comm" 2>/dev/null)" = postgres ] &&
  [ "$(readlink "/proc/$p/cwd")" = "$(readlink -f "$DATA")" ]; }
MASTER=$VAR/pgpass-master
sql() { PGPASSFILE=$MASTER "$BIN/psql" -qAtX -h 127.0.0.1 -p "$PORT" -U app -d postgres -c "$1"; }
start() {
  exec 9>"$VAR/pg.lock"; flock 9                              # two starts at once: the second waits
  if [ ! -f "$DATA/PG_VERSION" ]; then
    run rm -rf "$DATA.new"; PW=$(head -c 24 /dev/urandom | base64 | tr '+/' '-_')
    echo "127.0.0.1:*:*:app:$PW" >"$MASTER"; echo "$PW" | run tee "$HOME_OF_DATA/pw" >/dev/null
    run "$BIN/initdb" -D "$DATA.new" -U app --pwfile="$HOME_OF_DATA/pw" --auth=scram-sha-256 -E UTF8 --locale=C.UTF-8 >/dev/null
    printf "%s\n" "listen_addresses='127.0.0.1'" "unix_socket_directories=''" "max_connections=200" | run tee -a "$DATA.new/postgresql.conf" >/dev/null
    run rm "$HOME_OF_DATA/pw"; run mv "$DATA.new" "$DATA"           # a broken-off initdb never looks finished
  fi
  PORT=$(port)
  if ! running && taken "$PORT"; then rm -f "$VAR/pgport"; PORT=$(port); fi   # somebody else's by now
  if ! running; then                                          # a dead pid postgres clears; a pid reused by another program it believes
    [ ! -e "/proc/$(head -1 "$DATA/postmaster.pid" 2>/dev/null || echo none)" ] || run rm -f "$DATA/postmaster.pid"
    for try in $(seq 30); do                                  # after kill -9 its children hold shared memory for a while
      run "$BIN/pg_ctl" -D "$DATA" -o "-p $PORT ${UPPER_TRAY_DATABASE_OPTIONS:-}" -l "$HOME_OF_DATA/log" -w start >/dev/null 2>&1 </dev/null 9>&- && break
      [ "$try" -lt 30 ] || { run tail -5 "$HOME_OF_DATA/log" >&2; exit 1; }; sleep 1
    done
  fi
  for _ in $(seq 300); do "$BIN/pg_isready" -q -h 127.0.0.1 -p "$PORT" && break; sleep .1; done
  [ -s "$MASTER" ] || mv "$VAR/pgpass" "$MASTER"              # of a version whose product was the master itself
  if [ ! -s "$VAR/pgpass" ]; then
    PW=$(head -c 24 /dev/urandom | base64 | tr '+/' '-_')
    [ "$(sql "SELECT 1 FROM pg_roles WHERE rolname='upper_tray'")" = 1 ] || sql "CREATE ROLE upper_tray LOGIN"
    # Tests make databases of their own.
    sql "ALTER ROLE upper_tray NOSUPERUSER CREATEDB NOCREATEROLE PASSWORD '$PW'"
    echo "127.0.0.1:*:*:upper_tray:$PW" >"$VAR/pgpass"
  fi
  [ "$(sql "SELECT 1 FROM pg_database WHERE datname='upper_tray'")" = 1 ] || sql "CREATE DATABASE upper_tray OWNER upper_tray"
}
case ${1:-} in start) start;; stop) ! running || run "$BIN/pg_ctl" -D "$DATA" -m fast -w stop >/dev/null;;
  port) port;;
  status) running && "$BIN/pg_isready" -h 127.0.0.1 -p "$(port)";; *) echo "usage: pg.sh start|stop|status|port" >&2; exit 2;; esac
