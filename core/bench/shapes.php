<?php

declare(strict_types=1);

// Shapes found on simulated scans, against the exact part: core/bin/php-jit core/bench/shapes.php PART... [--voxel MM] [--seed N]
// Eight passes of a handheld rig (noise 0.05 mm) in their true poses, fused and closed. Right: share of the measured area whose shape lies within 0.1 mm and 10 degrees of the exact surface below it;
// free form is told apart. Off: of shapes with more than 0.3 % of the area, the largest tilt of a plane or axis from an axis of the part where it is near one, and the largest difference of a diameter from
// the next of those that the part has.
require __DIR__.'/lib.php';

use Emberstone\Core\Algorithms\Shapes\FoundShape;
use Emberstone\Core\Algorithms\Shapes\ShapeSearch;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\HandheldRig;

/** Diameters of the round faces of each part, mm. */
const DIAMETERS = ['pedestal' => [11.0, 30.0, 54.0], 'cap' => [9.0, 14.0, 54.0, 68.0], 'bush' => [5.0, 22.0, 30.0, 40.0], 'ratchet-wheel' => [16.0, 18.0, 22.0, 36.0, 102.0], 'finial' => [18.0, 34.0]];

$options = ['voxel' => 0.8, 'seed' => 1];
$parts = [];
for ($k = 1; $k < $argc; $k++) {
    str_starts_with($argv[$k], '--') ? $options[substr($argv[$k], 2)] = (float) $argv[++$k] : $parts[] = $argv[$k];
}
$rig = new HandheldRig(table: false);
printf("%-14s %8s %7s %7s %7s %7s  %s\n", 'part', 'faces', 's', 'right', 'free', 'wrong', 'shapes; off');
foreach ($parts as $name) {
    $part = Catalogue::part($name);
    $passes = [];
    for ($k = 0; $k < 8; $k++) {
        $capture = $rig->capture($part, $k, (int) $options['seed']);
        $passes[] = Pass::of("pass $k", $capture['cloud'])->moved($capture['pose'], 0.0, 1.0);
    }
    $mesh = (new Fuse)(new Workpiece($passes), new FuseParameters($options['voxel'], closeHoles: 'all'), new NoProgress)->workpiece->bodies[0]->placedMesh();
    $isTold = array_map(fn (int $mark) => $mark === TriangleMesh::MEASURED ? 1 : 0, $mesh->origin);
    $start = microtime(true);
    $search = new ShapeSearch($mesh->positions, $mesh->faces, $isTold, null, null, 0.001, fn () => null);
    $seconds = microtime(true) - $start;
    $gradient = function (array $q) use ($part): array {
        [$x, $y, $z] = $q;

        return Vector3::unit([$part->distance($x + 1e-4, $y, $z) - $part->distance($x - 1e-4, $y, $z), $part->distance($x, $y + 1e-4, $z) - $part->distance($x, $y - 1e-4, $z), $part->distance($x, $y, $z + 1e-4) - $part->distance($x, $y, $z - 1e-4)]);
    };
    $areas = Measure::areas($mesh->positions, $mesh->faces);
    $centres = Measure::centres($mesh->positions, $mesh->faces);
    $all = $right = $free = 0.0;
    foreach ($search->labels as $t => $label) {
        if (($isTold[$t] ?? 1) === 0) {
            continue;
        }
        $all += $areas[$t];
        $found = $search->shapes[$label];
        if ($found->shape === null || $found->kind === FoundShape::REVOLVED) {
            $free += $areas[$t];

            continue;
        }
        $at = [$centres[3 * $t], $centres[3 * $t + 1], $centres[3 * $t + 2]];
        $on = Vector3::minus($at, Vector3::scaled($gradient($at), $part->distance(...$at)));
        $right += abs($found->shape->distances($on)[0]) < 0.1 && abs(Vector3::dot($found->shape->normal(...$on), $gradient($on))) > cos(deg2rad(10.0)) ? $areas[$t] : 0.0;
    }
    $tilt = $diameter = 0.0;
    foreach ($search->shapes as $found) {
        if ($found->shape === null || $found->area < 0.003 * array_sum($areas)) {
            continue;
        }
        $most = max(array_map(abs(...), $found->shape->direction()));
        // Slopes and teeth are no axis of the part.
        $tilt = $most > 0.9999 ? max($tilt, rad2deg(acos(min(1.0, $most)))) : $tilt;
        if ($found->kind === 'cylinder') {
            $diameter = max($diameter, min(array_map(fn (float $d) => abs($d - 2.0 * $found->shape->radius), DIAMETERS[$name] ?? [0.0])));
        }
    }
    $counts = array_count_values(array_map(fn (FoundShape $one) => $one->kind, $search->shapes));
    ksort($counts);
    printf("%-14s %8d %7.1f %6.2f%% %6.2f%% %6.2f%%  %s; tilt %.3f deg, diameter %.3f mm\n", $name, $mesh->faceCount(), $seconds, 100.0 * $right / $all, 100.0 * $free / $all, 100.0 * (1.0 - ($right + $free) / $all), implode(', ', array_map(fn (string $kind) => "$counts[$kind] $kind", array_keys($counts))), $tilt, $diameter);
}
