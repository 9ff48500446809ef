<?php

declare(strict_types=1);

// CPU seconds of the kernels, one line of JSON each: core/bin/php-jit core/bench/kernels.php FOLDER. kernels_peers.py does the same work.
require __DIR__.'/lib.php';

use Emberstone\Core\Algorithms\Icp\CorrespondenceCache;
use Emberstone\Core\Algorithms\Icp\IcpEquations;
use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\Inspection;

$folder = $argv[1] ?? sys_get_temp_dir();

/** The fastest of five runs, as kernels_peers.py takes it: what other work on the machine adds is no figure of the kernel. */
function measure(string $kernel, callable $work): mixed
{
    $times = [];
    for ($k = 0; $k < 5; $k++) {
        $start = cpu();
        $result = $work();
        $times[] = cpu() - $start;
    }
    printf("{\"kernel\": \"%s\", \"ours\": %.3f}\n", $kernel, min($times));

    return $result;
}

// A million points on the bumpy torus of the decimation benchmark, jittered a little, in the order of its grid.
$random = new Random\Randomizer(new Random\Engine\Xoshiro256StarStar(7));
$p = [];
for ($i = 0; $i < 1000; $i++) {
    for ($j = 0; $j < 1000; $j++) {
        $u = 2 * M_PI * $i / 1000;
        $v = 2 * M_PI * $j / 1000;
        $r = 3.0 + 0.25 * sin(9 * $u) * cos(7 * $v) + 1e-8 * $random->getInt(-100000, 100000);
        array_push($p, (10.0 + $r * cos($v)) * cos($u), (10.0 + $r * cos($v)) * sin($u), $r * sin($v));
    }
}
$out = fopen("$folder/points.f64", 'wb');
foreach (array_chunk($p, 30000) as $piece) {
    fwrite($out, pack('e*', ...$piece));
}
fclose($out);
$queries = array_slice($p, 0, 300000);

$grid = measure('point grid, 1 M points', fn () => PointGrid::of($p));
measure('kd-tree, 1 M points', fn () => KdTree::of($p));
measure('16 neighbours and normals of 200 k of 1 M', fn () => $grid->neighbourhoods(16, range(400000, 599999)));
$tree = KdTree::of($p);
measure('nearest of 1 M, 100 k queries', function () use ($tree, $queries): void {
    $nearest = $distanceSq = [];
    $tree->nearest($queries, 1.0, $nearest, $distanceSq);
});
unset($tree);

// Best fit of every second of the first 400 k points, moved a little, onto the others: 30 rounds, the tree made beforehand.
$normals = $grid->neighbourhoods(16)['normals'];
$placed = [];
foreach ($grid->order as $slot => $i) {
    if ($i < 400000) {
        // Outwards, as normals of a capture face its sensor: away from the ring's middle circle.
        [$x, $y, $z] = [$p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]];
        $k = 1.0 - 10.0 / sqrt($x * $x + $y * $y);
        $out = $normals[3 * $slot] * $k * $x + $normals[3 * $slot + 1] * $k * $y + $normals[3 * $slot + 2] * $z < 0.0 ? -1.0 : 1.0;
        $placed[$i & 1][] = [$i, $out * $normals[3 * $slot], $out * $normals[3 * $slot + 1], $out * $normals[3 * $slot + 2]];
    }
}
unset($grid, $normals);
[$moving, $movingNormals, $still, $stillNormals] = [[], [], [], []];
foreach ($placed[0] as [$i, $nx, $ny, $nz]) {
    array_push($moving, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
    array_push($movingNormals, $nx, $ny, $nz);
}
foreach ($placed[1] as [$i, $nx, $ny, $nz]) {
    array_push($still, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
    array_push($stillNormals, $nx, $ny, $nz);
}
unset($placed);
foreach (['moving' => $moving, 'moving-normals' => $movingNormals, 'still' => $still, 'still-normals' => $stillNormals] as $name => $numbers) {
    $out = fopen("$folder/$name.f64", 'wb');
    foreach (array_chunk($numbers, 30000) as $piece) {
        fwrite($out, pack('e*', ...$piece));
    }
    fclose($out);
}
$tree = KdTree::of($still);
$treeNormals = [];
foreach ($tree->order as $i) {
    array_push($treeNormals, $stillNormals[3 * $i], $stillNormals[3 * $i + 1], $stillNormals[3 * $i + 2]);
}
$quality = array_fill(0, intdiv(count($moving), 3), 1.0);
$residual = measure('best fit, 200 k onto 200 k points, 30 rounds', function () use ($moving, $movingNormals, $quality, $tree, $treeNormals): float {
    $identity = RigidTransform::identity();
    $partners = new CorrespondenceCache($tree);
    $at = RigidTransform::turn([0.0, 0.0, 1.0], 0.004)->then(RigidTransform::shift(0.03, -0.02, 0.04));
    for ($round = 0; $round < 30; $round++) {
        $pair = IcpEquations::pair($moving, $movingNormals, $quality, $at->matrix, $partners, $treeNormals, $identity->matrix, $identity->matrix, 0.3, 1e-4);
        $h = [];
        for ($r = 0; $r < 6; $r++) {
            for ($c = 0; $c < 6; $c++) {
                $h[] = $pair['a'][IcpEquations::upper($r, $c)];
            }
        }
        $step = Dense::solve($h, array_map(fn (float $v) => -$v, $pair['b']), 6);
        $at = $at->then(RigidTransform::turn(array_slice($step, 0, 3), sqrt($step[0] ** 2 + $step[1] ** 2 + $step[2] ** 2)))->then(RigidTransform::shift($step[3], $step[4], $step[5]));
    }

    return sqrt($pair['squares'] / $pair['weight']);
});
printf("{\"best fit, residual\": %.6f}\n", $residual);
unset($moving, $movingNormals, $still, $stillNormals, $tree, $treeNormals, $quality);
$mesh = Formats::read("$folder/torus.ply")->geometry;
assert($mesh instanceof Emberstone\Core\Mesh\TriangleMesh);
$bvh = measure('triangle tree, 500 k faces', fn () => TriangleBvh::of($mesh->positions, $mesh->faces));
measure('closest point on 500 k faces, 100 k queries', function () use ($bvh, $queries): void {
    $face = $distanceSq = [];
    $bvh->closest($queries, $face, $distanceSq);
});
// From everywhere around towards points of the surface, and half as far again.
$rays = [];
for ($i = 0; $i < 100000; $i++) {
    $to = 3 * $random->getInt(0, 999999);
    $from = [];
    for ($k = 0; $k < 3; $k++) {
        $from[] = $random->getInt(-20000, 20000) * 1e-3;
    }
    array_push($rays, ...$from);
    for ($k = 0; $k < 3; $k++) {
        $rays[] = 1.5 * ($p[$to + $k] - $from[$k]);
    }
}
$out = fopen("$folder/rays.f64", 'wb');
foreach (array_chunk($rays, 30000) as $piece) {
    fwrite($out, pack('e*', ...$piece));
}
fclose($out);
$met = measure('100 k rays onto 500 k faces', function () use ($bvh, $rays): int {
    $face = $way = [];
    $bvh->firstAlong($rays, $face, $way);

    return count(array_filter($way, fn (float $w) => $w <= 1.0));
});
printf("{\"rays that meet a face\": %d}\n", $met);
unset($rays);
measure('write binary STL, 500 k faces', fn () => Formats::write("$folder/torus.stl", $mesh, new WriteOptions));
measure('read and weld binary STL, 500 k faces', fn () => Formats::read("$folder/torus.stl"));
measure('inspect, 500 k faces', fn () => Inspection::of($mesh));
printf("{\"peakMb\": %d}\n", memory_get_peak_usage() / 1e6);
