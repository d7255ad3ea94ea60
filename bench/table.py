#!/usr/bin/env python3
"""Prints what benchmarks measured (Google Benchmark's JSON) as a table; --markdown for docs. Usage: table.py [--markdown] FILE..."""
import json
import sys


def time_text(nanoseconds):
    for unit, size in (("s", 1e9), ("ms", 1e6), ("us", 1e3)):
        if nanoseconds >= size:
            return f"{nanoseconds / size:.3g} {unit}"
    return f"{nanoseconds:.3g} ns"


def rows(files):
    for name in files:
        with open(name, encoding="utf-8") as stream:
            report = json.load(stream)
        for run in report["benchmarks"]:
            if run.get("run_type") == "aggregate":
                continue
            parts = run["name"].split("/")
            what, count = parts[0], next((part for part in parts[1:] if part.isdigit()), "")
            scale = {"ns": 1, "us": 1e3, "ms": 1e6, "s": 1e9}[run["time_unit"]]
            row = [what, f"{int(count):,}" if count else "", time_text(run["real_time"] * scale), "", "", ""]
            if "ratio" in run:
                row[3] = time_text(run["other_us"] * 1e3)
                row[4] = f"{run['ratio']:.3g}"
                row[5] = f"{run['ratio_low']:.3g} to {run['ratio_high']:.3g}"
            yield row


def main():
    markdown = "--markdown" in sys.argv
    head = ["what", "count", "ours", "the other", "times longer", "middle half"]
    table = [head, *rows(name for name in sys.argv[1:] if not name.startswith("--"))]
    if markdown:
        for i, row in enumerate(table):
            print("| " + " | ".join(row) + " |")
            if i == 0:
                print("|" + "---|" * len(head))
        return
    widths = [max(len(row[i]) for row in table) for i in range(len(head))]
    for i, row in enumerate(table):
        print("  ".join(cell.ljust(width) if k == 0 else cell.rjust(width) for k, (cell, width) in enumerate(zip(row, widths))).rstrip())
        if i == 0:
            print("  ".join("-" * width for width in widths))


main()
