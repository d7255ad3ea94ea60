#!/usr/bin/env bash
# The crowd over 1, 2, 3 and 5 processes is the same.
set -euo pipefail
program=$1 demo=$2
export OMPI_ALLOW_RUN_AS_ROOT=1 OMPI_ALLOW_RUN_AS_ROOT_CONFIRM=1 OMPI_MCA_btl_vader_single_copy_mechanism=none
wanted=""
for ranks in 1 2 3 5; do
  said=$(mpirun --oversubscribe -np "$ranks" "$program" "$demo" 2001 150 2>/dev/null)
  echo "$ranks: $said"
  [ -z "$wanted" ] && wanted=$said
  test "$said" = "$wanted"
done
records=${wanted##*, }
test "${records%% *}" -gt 5000
