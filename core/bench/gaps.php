<?php

declare(strict_types=1);

// How far made-up surface is off the exact part: core/bin/php-jit core/bench/gaps.php PART SEED [--widest MM] [--without PASS,PASS]
// Handheld rig, exact poses, voxel 0.8 mm, without the table. Of made-up surface only vertices are asked that lie in no measured face.
require __DIR__.'/lib.php';

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\Catalogue;

$option = fn (string $name): ?string => in_array($name, $argv, true) ? $argv[array_search($name, $argv, true) + 1] : null;
$part = Catalogue::part($argv[1]);
$without = $option('--without') === null ? [] : array_map(intval(...), explode(',', $option('--without')));
$widest = $option('--widest');
$passes = exactPasses($part, (int) $argv[2], $without);
$start = microtime(true);
$result = (new Fuse)(new Workpiece($passes), new FuseParameters(0.8, $widest === null ? 'all' : (float) $widest), new NoProgress);
$seconds = microtime(true) - $start;
$mesh = $result->workpiece->bodies[0]->geometry;
assert($mesh instanceof TriangleMesh);
$marks = [];
foreach ($mesh->faces as $h => $v) {
    $marks[$v][$mesh->origin[intdiv($h, 3)] ?? TriangleMesh::MEASURED] = true;
}
$squares = $many = $worst = [];
foreach ($marks as $v => $of) {
    if (! isset($of[TriangleMesh::MEASURED])) {
        $d = $part->distance($mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]);
        foreach (['all', ...array_map(fn (int $mark) => TriangleMesh::MADE_UP[$mark], array_keys($of))] as $kind) {
            $squares[$kind] = ($squares[$kind] ?? 0.0) + $d * $d;
            $many[$kind] = ($many[$kind] ?? 0) + 1;
            $worst[$kind] = max($worst[$kind] ?? 0.0, abs($d));
        }
    }
}
$inspection = Inspection::of($mesh);
$off = [];
for ($v = 0; $v < $mesh->vertexCount(); $v++) {
    $off[] = abs($part->distance($mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]));
}
printf("%s seed %s, widest %s, without [%s]: %.1f s; %d holes left, faults %s\n", $argv[1], $argv[2], $widest ?? 'all', implode(' ', $without), $seconds, count($inspection->holes), json_encode(array_filter($inspection->faults)));
printf("  whole mesh: %d vertices, %.4f mm RMS, %d farther than 0.3 mm, %d farther than 1 mm\n", count($off), sqrt(array_sum(array_map(fn (float $d) => $d * $d, $off)) / count($off)), count(array_filter($off, fn (float $d) => $d > 0.3)), count(array_filter($off, fn (float $d) => $d > 1.0)));
foreach ($squares as $kind => $sum) {
    printf("  %-22s %6d vertices, %.3f mm RMS, %.2f at worst\n", $kind, $many[$kind], sqrt($sum / $many[$kind]), $worst[$kind]);
}
echo '  ', implode(' ', $result->notes), "\n";
