<?php

declare(strict_types=1);

// How sharp the edges of the fused pedestal are, and how true all of it: php core/bench/edges.php SEED... (voxel 0.8 mm, passes in their exact poses)
require __DIR__.'/lib.php';

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\BearingPedestal;

const VOXEL = 0.8;
$part = new BearingPedestal;
// Edges of the base, half a millimetre from point to point.
$edges = [];
for ($x = -58.0; $x <= 58.0; $x += 0.5) {
    foreach ([-35.0, 35.0] as $y) {
        array_push($edges, $x, $y, 0.0, ...abs($x) > 30.0 ? [$x, $y, 14.0] : []);
    }
}
for ($y = -33.0; $y <= 33.0; $y += 0.5) {
    array_push($edges, -60.0, $y, 14.0, 60.0, $y, 14.0);
}
foreach (array_slice($argv, 1) as $seed) {
    $passes = exactPasses($part, (int) $seed);
    $mesh = (new Fuse)(new Workpiece($passes), new FuseParameters(VOXEL), new NoProgress)->workpiece->bodies[0]->geometry;
    assert($mesh instanceof TriangleMesh);
    $face = $distanceSq = [];
    TriangleBvh::of($mesh->positions, $mesh->faces)->closest($edges, $face, $distanceSq);
    $off = array_map(sqrt(...), $distanceSq);
    sort($off);
    $squares = $bound = 0.0;
    foreach ($mesh->support as $v => $support) {
        $squares += $part->distance($mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]) ** 2;
        $bound += 0.05 / sqrt(max(1, Evidence::passes($support))) + 0.05 * VOXEL;
    }
    $many = $mesh->vertexCount();
    printf("seed %s: edges off the mesh by %.3f mm in the middle, %.3f at p95, %.3f at most (%.2f voxels); RMS of all vertices %.4f mm, bound %.4f\n", $seed, $off[intdiv(count($off), 2)], $off[(int) (0.95 * count($off))], end($off), end($off) / VOXEL, sqrt($squares / $many), $bound / $many);
}
