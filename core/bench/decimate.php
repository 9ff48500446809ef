<?php

declare(strict_types=1);

// Makes the input of the decimation benchmark and times ours: php core/bench/decimate.php FOLDER
require __DIR__.'/lib.php';

use Emberstone\Core\Deliver\SurfaceDistance;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Lighten\Kernel\QuadricCollapse;
use Emberstone\Core\Mesh\TriangleMesh;

$folder = $argv[1] ?? sys_get_temp_dir();
$mesh = bumpyTorus(500);
Formats::write("$folder/torus.ply", $mesh);
$seconds = [];
for ($k = 0; $k < 3; $k++) {
    $start = cpu();
    $result = QuadricCollapse::run($mesh->positions, $mesh->faces, [], [], intdiv($mesh->faceCount(), 10), INF, 100.0, fn (float $done) => null);
    $seconds[] = cpu() - $start;
}
sort($seconds);
$light = TriangleMesh::fromFlat($result['positions'], $result['faces']);
$report = ['decimate' => ['seconds' => round($seconds[1], 3), 'faces' => $light->faceCount(), 'peakMb' => (int) (memory_get_peak_usage() / 1e6)]];
foreach (['ours' => $light, ...(is_file("$folder/torus-vtk.ply") ? ['vtk' => Formats::read("$folder/torus-vtk.ply")->geometry] : [])] as $name => $other) {
    $there = SurfaceDistance::compare($other, $mesh, 100000);
    $back = SurfaceDistance::compare($mesh, $other, 100000);
    $report['decimate'][$name] = ['rms' => round(sqrt(($there['rms'] ** 2 + $back['rms'] ** 2) / 2), 7), 'max' => round(max($there['max'], $back['max']), 6)];
}
echo json_encode($report, JSON_PRETTY_PRINT), "\n";
