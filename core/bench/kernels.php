<?php

declare(strict_types=1);

// CPU seconds of the kernels, one line of JSON each: core/bin/php-jit core/bench/kernels.php FOLDER. kernels_peers.py does the same work.
require __DIR__.'/../../vendor/autoload.php';

use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Mend\Inspection;
use Emberstone\Core\Spatial\KdTree;
use Emberstone\Core\Spatial\PointGrid;
use Emberstone\Core\Spatial\TriangleBvh;

$folder = $argv[1] ?? sys_get_temp_dir();

function cpuSeconds(): float
{
    $u = getrusage();

    return $u['ru_utime.tv_sec'] + $u['ru_stime.tv_sec'] + ($u['ru_utime.tv_usec'] + $u['ru_stime.tv_usec']) * 1e-6;
}

/** The median of three runs; the first also warms the JIT up. */
function measure(string $kernel, callable $work): mixed
{
    $times = [];
    for ($k = 0; $k < 3; $k++) {
        $start = cpuSeconds();
        $result = $work();
        $times[] = cpuSeconds() - $start;
    }
    sort($times);
    printf("{\"kernel\": \"%s\", \"ours\": %.3f}\n", $kernel, $times[1]);

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
unset($tree, $grid);
$mesh = Formats::read("$folder/torus.ply")->geometry;
assert($mesh instanceof Emberstone\Core\Mesh\TriangleMesh);
$bvh = measure('triangle tree, 500 k faces', fn () => TriangleBvh::of($mesh->positions, $mesh->faces));
measure('closest point on 500 k faces, 100 k queries', function () use ($bvh, $queries): void {
    $face = $distanceSq = [];
    $bvh->closest($queries, $face, $distanceSq);
});
measure('write binary STL, 500 k faces', fn () => Formats::write("$folder/torus.stl", $mesh, new WriteOptions));
measure('read and weld binary STL, 500 k faces', fn () => Formats::read("$folder/torus.stl"));
measure('inspect, 500 k faces', fn () => Inspection::of($mesh));
printf("{\"peakMb\": %d}\n", memory_get_peak_usage() / 1e6);
