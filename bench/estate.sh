#!/usr/bin/env bash
# Starts a fresh service, sends it a whole estate, and asks every query of it.
# Usage: bench/estate.sh SIZE [HOME] [send|rest|ask|all|ask=PART|labels|grants|history]; SIZE is S, M, L or a number of columns.
set -euo pipefail
here=$(cd "$(dirname "$0")/.." && pwd)
size=${1:-S} home=${2:-/tmp/longthread-estate} what=${3:-all}
[ -d "$here/bench/target/lib" ] || (cd "$here" && mvn -B -q -Dspotless.check.skip -DskipTests -pl core,bench -am package)
case "$what" in
  ask* | rest | labels | grants | history) ;;
  *) "$here/longthread" serve --detach --fresh --home "$home" ;;
esac
java -XX:+UseSerialGC -Xmx"${BENCH_MEMORY:-2g}" -cp "$here/bench/target/classes:$here/core/target/classes:$here/bench/target/lib/*" \
  longthread.bench.EstateRun "$(cat "$home/url")" "$home/token" "$home/service.pid" "$home" "$size" "$what"
case "$what" in
  ask* | rest | labels | grants | history) ;;
  *)
    "$here/longthread" stop --home "$home" >/dev/null
    began=$(date +%s%N)
    "$here/longthread" serve --detach --home "$home" >/dev/null
    echo "stopped and ready again after $((($(date +%s%N) - began) / 1000000)) ms; $(grep -a 'graph loaded' "$home/logs/service.log" | tail -1 | sed 's/.*: //')"
    ;;
esac
