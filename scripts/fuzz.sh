#!/bin/sh
# Runs every fuzz test for the time given, such as 60s.
set -eu
for file in $(git grep -l '^func Fuzz' -- '*_test.go'); do
	for name in $(sed -n 's/^func \(Fuzz[A-Za-z]*\).*/\1/p' "$file"); do
		go test "./$(dirname "$file")" -run '^$' -fuzz "^$name\$" -fuzztime "$1" -fuzzminimizetime 20x
	done
done
