# ./posttide bench

run_benchmarks() {
  need_tools
  install_debian postgresql
  source "$root/scripts/test.sh"
  build_web
  say "Building"
  build_server
  dotnet build "$root/bench" -c Release --nologo -v quiet "-clp:ErrorsOnly;NoSummary"
  local bench="$root/bench/bin/Release/net10.0/PostTide.Bench.dll" which
  [ $# -gt 0 ] || set -- planning matching sorting editing arrivals intake
  for which in "$@"; do
    case "$which" in
      planning) (cd "$state" && dotnet "$bench" planning) ;;
      matching)
        local mail
        mail=$(public_corpus)
        dotnet "$bench" matching "$mail" 10000
        ;;
      sorting)
        dotnet "$bench" sorting "$(public_corpus)"
        ;;
      editing)
        install_debian chromium
        begin_test_cluster
        local web
        web=$(free_port 0)
        start_test_office "$web" "$(free_port 0)" "$(free_port 0)" "$(free_port 0)" "$database_port" bench 10000
        node "$root/bench/browser/editing.mjs" "http://127.0.0.1:$web" "$(command -v chromium)" 40
        stop_test_office
        ;;
      arrivals)
        begin_test_cluster
        start_test_office "$(free_port 0)" "$(free_port 0)" "$(free_port 0)" "$(free_port 0)" "$database_port" bench 0
        dotnet "$bench" arrivals 1000
        stop_test_office
        ;;
      intake)
        install_debian dovecot-imapd
        local corpus
        corpus=$(public_corpus)
        begin_test_cluster
        start_test_office "$(free_port 0)" "$(free_port 0)" "$(free_port 0)" "$(free_port 0)" "$database_port" bench 0
        POSTTIDE_SERVER_PID=${pids[1]} dotnet "$bench" intake "$corpus" "${POSTTIDE_BENCH_MESSAGES:-2000}"
        stop_test_office
        ;;
      *) fail "there is no benchmark $which; there are planning, matching, sorting, editing, arrivals and intake" ;;
    esac
  done
}
