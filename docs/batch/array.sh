#!/usr/bin/env bash
#SBATCH --job-name=gentle-quill
#SBATCH --cpus-per-task=2
# One task of a job array: every n-th frame of a list. Usage: array.sh CHART OUT LIST
set -euo pipefail
chart=$1 out=$2 list=$3
task=${SLURM_ARRAY_TASK_ID:-0} tasks=${SLURM_ARRAY_TASK_COUNT:-1}
mapfile -t frames < <(awk -v n="$tasks" -v k="$task" '(NR - 1) % n == k' "$list")
((${#frames[@]})) || exit 0
mkdir -p "$out"
"${GQUILL:-gquill}" carry -j "${SLURM_CPUS_PER_TASK:-2}" --resume --chart "$chart" -o "$out" "${frames[@]}"
