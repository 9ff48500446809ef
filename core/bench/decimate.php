<?php

declare(strict_types=1);

// Decimation to a tenth of the faces against VTK's: php core/bench/decimate.php FOLDER writes the meshes and times ours; then python3 core/bench/decimate_vtk.py FOLDER; then the first once more compares.
require __DIR__.'/lib.php';

use Emberstone\Core\Algorithms\Remeshing\QuadricCollapse;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Rigs\BearingCap;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\ExactSurface;
use Emberstone\Core\Rigs\PineConeFinial;
use Emberstone\Core\Rigs\RatchetWheel;

$folder = $argv[1] ?? sys_get_temp_dir();
$meshes = [
    'torus' => fn () => bumpyTorus(500),
    'finial' => fn () => ExactSurface::of(new PineConeFinial, 0.6),
    'pedestal' => fn () => ExactSurface::of(new BearingPedestal, 0.6),
    'cap' => fn () => ExactSurface::of(new BearingCap, 0.6),
    'wheel' => fn () => ExactSurface::of(new RatchetWheel, 0.6),
];
/** RMS both ways and the largest distance, mm. */
$apart = function (TriangleMesh $a, TriangleMesh $b): array {
    [$there, $back] = [SurfaceDistance::compare($a, $b, 100000), SurfaceDistance::compare($b, $a, 100000)];

    return ['rms' => sqrt(($there['rms'] ** 2 + $back['rms'] ** 2) / 2), 'max' => max($there['max'], $back['max'])];
};
$report = [];
foreach ($meshes as $name => $make) {
    $mesh = is_file("$folder/$name.ply") ? Formats::read("$folder/$name.ply")->geometry : $make();
    assert($mesh instanceof TriangleMesh);
    Formats::write("$folder/$name.ply", $mesh);
    $best = INF;
    for ($k = 0; $k < 3; $k++) {
        $start = cpu();
        $result = QuadricCollapse::run($mesh->positions, $mesh->faces, [], [], intdiv($mesh->faceCount(), 10), INF, 100.0, fn (float $done) => null);
        $best = min($best, cpu() - $start);
    }
    $light = TriangleMesh::fromFlat($result['positions'], $result['faces']);
    $report[$name] = ['faces' => $mesh->faceCount(), 'seconds' => round($best, 3), 'peakMb' => (int) (memory_get_peak_usage() / 1e6), 'ours' => $apart($light, $mesh)];
    if (is_file("$folder/$name-vtk.ply")) {
        $other = Formats::read("$folder/$name-vtk.ply")->geometry;
        assert($other instanceof TriangleMesh);
        $report[$name]['vtk'] = $apart($other, $mesh);
        $report[$name]['ratio'] = round($report[$name]['ours']['rms'] / max(1e-300, $report[$name]['vtk']['rms']), 3);
    }
}
echo json_encode($report, JSON_PRETTY_PRINT), "\n";
