# ./posttide demo

stop_demo() {
  trap - INT TERM EXIT
  say ""
  say "Stopping."
  local pid
  for pid in "${pids[@]}"; do kill -TERM "$pid" 2>/dev/null || true; done
  for pid in "${pids[@]}"; do wait "$pid" 2>/dev/null || true; done
  [ -n "${cluster:-}" ] && pg_stop "$cluster"
  rm -f "$state/demo.pid" "$state/demo.pids"
}

demo() {
  local fresh=no
  case "${1:-}" in
    --fresh) fresh=yes ;;
    "") ;;
    *) fail "demo knows only --fresh" ;;
  esac
  need_tools
  install_debian postgresql
  mkdir -p "$state"
  if [ -e "$state/demo.pid" ] && kill -0 "$(cat "$state/demo.pid")" 2>/dev/null; then
    fail "the demo of this folder is running already (process $(cat "$state/demo.pid")); stop it with Ctrl+C where it was started"
  fi
  build_all

  # What a killed demo left running would go on working on the same data.
  local left
  for left in $(cat "$state/demo.pids" 2>/dev/null); do
    grep -qs PostTide "/proc/$left/cmdline" && kill -TERM "$left"
  done
  pids=()
  cluster=$(pg_folder demo)
  trap 'stop_demo; exit 0' INT TERM
  trap stop_demo EXIT
  echo $$ >"$state/demo.pid"
  if [ "$fresh" = yes ]; then
    say "Beginning anew: the demo's data is removed"
    pg_stop "$cluster"
    rm -rf "$cluster/data" "$state/demo-files" "$state/demo-mail"
  fi
  pg_running "$cluster" && pg_stop "$cluster"
  local web smtp host imap stand database
  web=$(free_port 7180) smtp=$(free_port 7125) host=$(free_port 7126) imap=$(free_port 7143) stand=$(free_port 7181) database=$(free_port 7132)
  say "Starting PostgreSQL"
  pg_start "$cluster" "$database"
  as_pg "$(pg_bin)/createdb" -h 127.0.0.1 -p "$database" -U posttide posttide 2>/dev/null || true

  export PostTide__Database PostTide__DataFolder="$state/demo-files" PostTide__OfficeName="Saltmarrow Harbour Office" PostTide__TicketPrefix=SH
  export PostTide__SmtpPort=$smtp PostTide__MailHostPort=$host PostTide__PracticeAddress="http://127.0.0.1:$stand"
  export PostTide__PracticeImapPort=$imap StandIns__ImapPort=$imap StandIns__MailFolder="$state/demo-mail"
  export PostTide__RetrySeconds__0=5 PostTide__RetrySeconds__1=15 PostTide__RetrySeconds__2=30 PostTide__RetrySeconds__3=60 PostTide__RetrySeconds__4=120
  PostTide__Database=$(connection "$database" posttide)
  say "Loading the demo data (once; it is kept)"
  dotnet "$(program Cli)" demo load

  StandIns__SmtpPort=$host StandIns__PostTideSmtpPort=$smtp ASPNETCORE_URLS="http://127.0.0.1:$stand" setsid dotnet "$(program StandIns)" >"$state/stand-ins.log" 2>&1 &
  pids+=($!)
  ASPNETCORE_URLS="http://127.0.0.1:$web" ASPNETCORE_WEBROOT="$root/web/dist" setsid dotnet "$(program Server)" >"$state/server.log" 2>&1 &
  pids+=($!)
  printf '%s\n' "${pids[@]}" >"$state/demo.pids"
  wait_for "http://127.0.0.1:$web/api/me" 120 "${pids[1]}" || { tail -20 "$state/server.log" >&2; fail "the server did not start"; }
  cat <<TEXT

Post Tide is running:      http://127.0.0.1:$web
Sign in as                 nell@saltmarrow.example   (may do everything)
                           builder@, desk@, checker@ or keeper@saltmarrow.example
Password of all of them    saltmarrow-demo
Practice mail server       127.0.0.1:$imap (IMAP), 127.0.0.1:$host (SMTP); user harbour@saltmarrow.example, password practice
Mail over SMTP             127.0.0.1:$smtp   (to plant@saltmarrow.example, for instance)
Practice stand-ins         http://127.0.0.1:$stand   (what Post Tide sends arrives there and nowhere else)

Fresh made-up mail comes in while this runs. Stop with Ctrl+C.
TEXT
  wait -n "${pids[@]}" || true
  fail "a part of the demo stopped by itself; see $state/server.log and $state/stand-ins.log"
}
