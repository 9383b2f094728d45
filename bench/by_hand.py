#!/usr/bin/env python3
"""Measures what people set, coverage and suggestions against a running, empty service.

    python3 bench/by_hand.py URL TOKEN [TABLES]

Sends an estate of varied tables (layers, fan-outs by a power law, half of the jobs with column maps), then measures each
call beside GET /health in the same run, and prints medians and 99th percentiles in milliseconds and as multiples of it.
"""
import csv
import io
import json
import random
import sys
import time
import urllib.error
import urllib.request
import uuid

URL, TOKEN = sys.argv[1].rstrip("/"), sys.argv[2]
TABLES = int(sys.argv[3]) if len(sys.argv) > 3 else 3000
WORDS = "pickup farm route tanker batch shelf sample price payout cost yield churn herd milk fat cell day period".split()
rng = random.Random(42)


def call(method, path, body=None, content="application/json", accept="application/json", wait=False):
    request = urllib.request.Request(URL + path, method=method)
    request.add_header("Authorization", "Bearer " + TOKEN)
    request.add_header("Accept", accept)
    if wait:
        request.add_header("Prefer", "wait=4")
    if body is not None:
        request.add_header("Content-Type", content)
        request.data = body if isinstance(body, bytes) else json.dumps(body).encode()
    with urllib.request.urlopen(request, timeout=300) as answer:
        return answer.read()


def name(i):
    layer = i * 12 // TABLES
    return "postgres://db%d:5432" % (layer % 5), "db.%s.%s_%s_%d" % (
        ["raw", "core", "mart"][min(2, layer // 4)], rng_word(i), rng_word(i * 7 + 1), i)


def rng_word(i):
    return WORDS[(i * 2654435761) % len(WORDS)]


def columns(i):
    return ["%s_%d" % (WORDS[(i + k) % len(WORDS)], k) for k in range(4 + (i * 31) % 21)]


def events():
    for i in range(TABLES):
        namespace, table = name(i)
        fields = [{"name": c, "type": "text"} for c in columns(i)]
        output = {"namespace": namespace, "name": table, "facets": {"schema": {"_producer": "p", "_schemaURL": "s", "fields": fields}}}
        inputs, lineage = [], {}
        if i > TABLES // 12:
            for _ in range(1 + int(rng.paretovariate(2)) % 4):
                j = int(i * rng.random() ** 2)
                inputs.append(dict(zip(("namespace", "name"), name(j))))
                for k, column in enumerate(columns(i)):
                    source = columns(j)
                    lineage.setdefault(column, {"inputFields": []})["inputFields"].append(
                        dict(inputs[-1], field=source[k % len(source)], transformations=[
                            {"type": "DIRECT", "subtype": ["IDENTITY", "TRANSFORMATION", "AGGREGATION"][(i + k) % 3 if i % 4 else 0]}]))
        if lineage and i % 2:
            output["facets"]["columnLineage"] = {"_producer": "p", "_schemaURL": "s", "fields": lineage}
        yield {"eventType": "COMPLETE", "eventTime": "2026-11-%02dT0%d:00:00Z" % (1 + i % 20, i % 9), "producer": "https://bench.example",
               "schemaURL": "s", "run": {"runId": str(uuid.UUID(int=i + 1))}, "job": {"namespace": "bench", "name": "job_%d" % i},
               "inputs": inputs, "outputs": [output]}


def ref(i):
    return "%s/%s" % name(i)


def measure(title, action, times):
    taken, health = [], []
    for k in range(times):
        start = time.perf_counter()
        call("GET", "/health")
        health.append(time.perf_counter() - start)
        start = time.perf_counter()
        action(k)
        taken.append(time.perf_counter() - start)
    taken.sort()
    health.sort()
    p50, p99 = taken[len(taken) // 2], taken[min(len(taken) - 1, int(len(taken) * 0.99))]
    base = health[len(health) // 2]
    print("| %-44s | %5d | %8.1f | %8.1f | %6.1f |" % (title, times, p50 * 1000, p99 * 1000, p50 / base), flush=True)


def state(*changes):
    return call("POST", "/api/v1/statements", {"changes": list(changes)}, wait=True)


def main():
    start = time.perf_counter()
    lines, sent = [], 0
    receipt = "0"
    for event in events():
        lines.append(json.dumps(event))
        if len(lines) == 200:
            receipt = json.loads(call("POST", "/api/v1/lineage/batch", "\n".join(lines).encode(), "application/x-ndjson"))["receipt"]
            sent += len(lines)
            lines = []
    if lines:
        receipt = json.loads(call("POST", "/api/v1/lineage/batch", "\n".join(lines).encode(), "application/x-ndjson"))["receipt"]
    while True:
        try:
            call("GET", "/api/v1/search?q=&limit=1&after=" + receipt)
            break
        except urllib.error.HTTPError:
            time.sleep(1)
    print("%d tables, %d columns applied in %.1f s\n" % (TABLES, sum(len(columns(i)) for i in range(TABLES)), time.perf_counter() - start))
    print("| call | times | p50 ms | p99 ms | × GET /health |\n|---|---|---|---|---|")
    state({"set": "term", "id": "t", "value": {"name": "Term"}})
    measure("set an owner, visible in every query", lambda k: state({"set": "owners", "of": ref(k), "value": ["team:%d" % k]}), 100)
    measure("record a link, visible", lambda k: state({"set": "recorded", "id": "r%d" % k, "value": {"reads": [ref(k)], "writes": [ref(k + 500)]}}), 60)
    measure("give a column a term, visible", lambda k: state({"set": "terms", "of": ref(k) + "#" + columns(k)[0], "value": ["t"]}), 60)
    measure("join two names, visible", lambda k: state({"set": "join", "of": ref(k * 2 + 900), "with": ref(k * 2 + 901), "value": "one"}), 15)
    measure("hold two names apart, visible", lambda k: state({"set": "join", "of": ref(k * 2 + 900), "with": ref(k * 2 + 901), "value": "apart"}), 15)
    measure("undo, visible", lambda k: call("POST", "/api/v1/statements/undo?id=" + json.loads(
        call("GET", "/api/v1/statements?limit=1"))["items"][0]["id"], b"", wait=True), 10)
    sheet = call("GET", "/api/v1/edits", accept="text/csv")
    measure("write out a sheet of all assets", lambda k: call("GET", "/api/v1/edits", accept="text/csv"), 10)
    rows = list(csv.reader(io.StringIO(sheet.decode("utf-8-sig"))))
    text = io.StringIO()
    csv.writer(text).writerows([rows[0]] + [r[:5] + ["Table number %d" % k] + r[6:] for k, r in enumerate(rows[1:])])
    changed = text.getvalue().encode()
    measure("dry run of a sheet with every row changed", lambda k: call("POST", "/api/v1/edits?dryRun=true", changed, "text/csv"), 5)
    measure("apply it, visible", lambda k: call("POST", "/api/v1/edits", changed, "text/csv", wait=True), 1)
    for title, path, times in (("coverage", "/api/v1/coverage", 20), ("blind spots", "/api/v1/blind-spots", 20),
                               ("names that are one (after a change)", "/api/v1/suggestions/merges", 20), ("likely copies", "/api/v1/copies", 20),
                               ("terms along copies", "/api/v1/suggestions/terms", 20), ("recorded links", "/api/v1/recorded", 20),
                               ("connections", "/api/v1/connections", 20)):
        measure(title, lambda k: call("GET", path), times)


main()
