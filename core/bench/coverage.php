<?php

declare(strict_types=1);

// How often the truth lies within the uncertainty that `measure` tells, over simulated scans: php core/bench/coverage.php [SCANS [FIRST_SEED [PART [COLUMNS [VOXEL]]]]]
// Prints for each measurement its error, how that differs from scan to scan, the standard deviation told, and how often the error is within two of them.
require __DIR__.'/lib.php';

use Emberstone\Core\Tests\Support\MeasuredScans;

[$scans, $first, $part, $columns, $voxel] = [(int) ($argv[1] ?? 10), (int) ($argv[2] ?? 1), $argv[3] ?? 'pedestal', (int) ($argv[4] ?? 400), (float) ($argv[5] ?? 0.8)];
$all = [];
for ($seed = $first; $seed < $first + $scans; $seed++) {
    foreach (MeasuredScans::of($part, $seed, $columns, $voxel) as $what => $one) {
        $all[$what][] = $one;
    }
    fprintf(STDERR, "scan %d\n", $seed);
}
$within = 0;
foreach ($all as $what => $list) {
    $errors = array_column($list, 'error');
    $mean = array_sum($errors) / count($list);
    $spread = sqrt(array_sum(array_map(fn (float $e) => ($e - $mean) ** 2, $errors)) / max(1, count($list) - 1));
    $in = count(array_filter($list, fn (array $one) => abs($one['error']) <= 2.0 * $one['told']));
    $within += $in;
    printf("%-14s error %+.4f, from scan to scan %.4f; told %.4f; within two of them %d of %d\n", $what, $mean, $spread, array_sum(array_column($list, 'told')) / count($list), $in, count($list));
}
printf("in all %d of %d, %.1f %%\n", $within, array_sum(array_map(count(...), $all)), 100.0 * $within / max(1, array_sum(array_map(count(...), $all))));
