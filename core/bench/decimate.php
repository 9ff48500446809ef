<?php

declare(strict_types=1);

// Makes the input of the decimation benchmark and times ours: php core/bench/decimate.php FOLDER
require __DIR__.'/../../vendor/autoload.php';

use Emberstone\Core\Deliver\SurfaceDistance;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Lighten\Kernel\QuadricCollapse;
use Emberstone\Core\Mesh\TriangleMesh;

ini_set('memory_limit', '-1');

/** A bumpy torus, 500 x 500 quads, about 26 across: smooth, curved both ways, no flat place. */
function bumpyTorus(int $n): TriangleMesh
{
    $p = $f = [];
    for ($i = 0; $i < $n; $i++) {
        for ($j = 0; $j < $n; $j++) {
            $u = 2 * M_PI * $i / $n;
            $v = 2 * M_PI * $j / $n;
            $r = 3.0 + 0.25 * sin(9 * $u) * cos(7 * $v);
            $p[] = (10.0 + $r * cos($v)) * cos($u);
            $p[] = (10.0 + $r * cos($v)) * sin($u);
            $p[] = $r * sin($v);
            $a = $i * $n + $j;
            $b = (($i + 1) % $n) * $n + $j;
            $c = (($i + 1) % $n) * $n + ($j + 1) % $n;
            $d = $i * $n + ($j + 1) % $n;
            array_push($f, $a, $b, $c, $a, $c, $d);
        }
    }

    return TriangleMesh::fromFlat($p, $f);
}

function cpu(): float
{
    $u = getrusage();

    return $u['ru_utime.tv_sec'] + $u['ru_stime.tv_sec'] + ($u['ru_utime.tv_usec'] + $u['ru_stime.tv_usec']) * 1e-6;
}

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
