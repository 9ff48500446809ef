<?php

declare(strict_types=1);

// How time and memory grow with the number of faces, what a second process brings, and what a look into a heavy blob costs:
// core/bin/php-jit core/bench/growth.php FOLDER
require __DIR__.'/lib.php';

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Remeshing\QuadricCollapse;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Gather\RemoveOutliers;
use Emberstone\Core\Gather\RemoveOutliersParameters;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;

$folder = $argv[1] ?? sys_get_temp_dir();
$seconds = $bytes = [];
foreach ([354, 707, 1414] as $n) {
    $mesh = bumpyTorus($n);
    foreach ([
        'neighbours across edges' => fn () => Topology::twins($mesh->faces),
        'triangle tree' => fn () => TriangleBvh::of($mesh->positions, $mesh->faces),
        'decimate to a tenth' => fn () => QuadricCollapse::run($mesh->positions, $mesh->faces, [], [], intdiv($mesh->faceCount(), 10), INF, 100.0, fn (float $done) => null),
        'inspect' => fn () => Inspection::of($mesh),
        'blob' => fn () => file_put_contents("$folder/heavy.blob", Blob::encode($mesh)),
    ] as $kernel => $work) {
        $before = memory_get_usage();
        memory_reset_peak_usage();
        $start = cpu();
        $work();
        $seconds[$kernel][] = cpu() - $start;
        $bytes[$kernel][] = (memory_get_peak_usage() - $before) / $mesh->vertexCount();
    }
}
foreach ($seconds as $kernel => $times) {
    printf("{\"growth\": \"%s\", \"seconds at 0.25, 1 and 4 M faces\": [%.2f, %.2f, %.2f], \"exponent\": %.2f, \"bytes a vertex\": %d}\n", $kernel, ...[...$times, log($times[2] / $times[0]) / log(16.0), max($bytes[$kernel])]);
}
unset($mesh);

$passes = [];
for ($k = 0; $k < 8; $k++) {
    $passes[] = Pass::of("pass $k", (new HandheldRig)->capture(new BearingPedestal, $k, 1)['cloud']);
}
$wall = [];
foreach ([1, 2, 1, 2, 1, 2] as $workers) {
    Cores::limit($workers);
    $start = microtime(true);
    (new RemoveOutliers)(new Workpiece($passes), new RemoveOutliersParameters, new NoProgress);
    $wall[$workers][] = microtime(true) - $start;
}
printf("{\"two processes\": \"remove-outliers on 8 passes\", \"one\": %.2f, \"two\": %.2f, \"times faster\": %.2f}\n", min($wall[1]), min($wall[2]), min($wall[1]) / min($wall[2]));
