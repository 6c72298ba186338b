#!/usr/bin/env bash
# Carries a dust chart to frames, one gquill a core. Usage: parallel.sh CHART OUT FRAME...
set -euo pipefail
chart=$1 out=$2
shift 2
mkdir -p "$out"
parallel --keep-order "${GQUILL:-gquill}" carry -j 1 --resume --chart "$chart" -o "$out" ::: "$@"
