"""How long a workspace description takes until queries show it, beside a single event, in one run.

Usage: python3 bench/workspaces.py URL TOKENFILE [ITEMS]. Only the standard library is needed.
"""
import json
import random
import statistics
import sys
import time
import urllib.request
import uuid

url, token = sys.argv[1], open(sys.argv[2]).read().strip()
items = int(sys.argv[3]) if len(sys.argv) > 3 else 400
draw = random.Random(5)


def call(method, path, body=None):
    request = urllib.request.Request(url + path, method=method, data=body and json.dumps(body).encode())
    for name, value in {"Authorization": "Bearer " + token, "Content-Type": "application/json", "Prefer": "wait=4"}.items():
        request.add_header(name, value)
    start = time.perf_counter()
    with urllib.request.urlopen(request, timeout=60) as answer:
        text = answer.read()
        shown = answer.headers.get("Preference-Applied") == "wait"
    return (time.perf_counter() - start) * 1000, shown, json.loads(text)


def description(at, changed=0):
    steps, models, charts, pages = [], [], [], []
    for i in range(items // 8):
        fields = [{"name": f"f{k}", "type": "numeric", "from": [{"field": f"c{k}"}]} for k in range(4 + i % 20)]
        steps.append({"id": f"s{i}", "title": f"Step {i}", "inputs": [{"connection": "db", "object": f"t{draw.randrange(200)}"}], "fields": fields})
        own = [{"name": f["name"], "from": [{"field": f["name"]}]} for f in fields]
        own.append({"name": "ratio", "sql": "case when f1 > 0 then f0 / f1 end", "description": f"of {i}"})
        models.append({"id": f"m{i}", "title": f"Model {i} {changed if i == 0 else 0}", "inputs": [{"item": f"step/s{i}"}], "fields": own})
        for k in range(4):
            shown = [{"field": f["name"], "how": "aggregated"} for f in fields[: 2 + k]] + [{"field": "ratio", "use": ["shown", "filtered"]}]
            charts.append({"id": f"c{i}x{k}", "title": f"Chart {i} {k}", "of": f"model/m{i}", "fields": shown})
        for k in range(2):
            pages.append({"id": f"p{i}x{k}", "title": f"Page {i} {k}", "charts": [f"chart/c{i}x{k}", f"chart/c{i}x{k + 2}"]})
    return {"format": "longthread-workspace/1", "tool": "bench", "instance": "here", "at": at, "workspace": {"id": "w", "title": "Bench"},
            "connections": [{"id": "db", "title": "Database", "kind": "postgresql", "names": {"namespace": "postgres://bench:5432", "name": "db.{object}"}}],
            "steps": steps, "models": models, "charts": charts, "reports": pages}


def event(i):
    return {"eventType": "COMPLETE", "eventTime": f"2026-11-20T05:00:{i % 60:02d}Z", "producer": "p", "schemaURL": "s", "run": {"runId": str(uuid.uuid4())},
            "job": {"namespace": "bench", "name": f"j{i % 7}"}, "inputs": [{"namespace": "postgres://bench:5432", "name": "db.t1"}],
            "outputs": [{"namespace": "postgres://bench:5432", "name": f"db.u{i % 7}"}]}


for i in range(40):
    call("POST", "/api/v1/lineage", event(i))
single = statistics.median(call("POST", "/api/v1/lineage", event(i))[0] for i in range(30))
draw.seed(5)
size = len(json.dumps(description("2026-11-20T05:00:00Z"))) // 1024
print(f"one event until shown: median {single:.0f} ms; description of {items} items, {size} KiB")
for what, at, changed in [("new", "00", 0), ("unchanged", "01", 0), ("unchanged", "02", 0), ("one title changed", "03", 1), ("one title changed", "04", 2)]:
    draw.seed(5)
    millis, shown, answer = call("PUT", "/api/v1/workspaces", description(f"2026-11-20T06:00:{at}Z", changed))
    print(f"{what}: {millis:.0f} ms ({millis / single:.1f} x one event), shown {shown}, {len(answer['differences'])} differences")
draw.seed(5)
millis, _, _ = call("PUT", "/api/v1/workspaces?dryRun=true", description("2026-11-20T07:00:00Z", 3))
print(f"dry run: {millis:.0f} ms")
reads = sorted(call("GET", "/api/v1/workspace?ref=bench://here/w")[0] for _ in range(20))
print(f"its map: median {reads[10]:.0f} ms")
