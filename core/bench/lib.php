<?php

declare(strict_types=1);

// What the benchmarks share.
require __DIR__.'/../../vendor/autoload.php';

use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Rigs\Part;

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

/**
 * Passes of a handheld rig in their exact poses, without the table.
 *
 * @param  list<int>  $without  passes that are left out
 * @return list<Pass>
 */
function exactPasses(Part $part, int $seed, array $without = []): array
{
    $rig = new HandheldRig(frameDriftMm: 0.0);
    $passes = [];
    foreach (array_diff(range(0, $rig->passes() - 1), $without) as $k) {
        ['cloud' => $cloud, 'pose' => $pose] = $rig->capture($part, $k, $seed);
        $placed = $cloud->transformed($pose);
        $mask = implode('', array_map(fn (array $p) => abs($part->distance(...$p)) < 0.4 ? "\1" : "\0", array_chunk($placed->positions, 3)));
        $passes[] = Pass::of("pass $k", $placed->kept($mask));
    }

    return $passes;
}

/** @return list<float> the corners of the box around a part, flat xyz, mm */
function partCorners(Part $part): array
{
    [$min, $max] = $part->bounds();
    $corners = [];
    for ($k = 0; $k < 8; $k++) {
        array_push($corners, ($k & 1 ? $max : $min)[0], ($k & 2 ? $max : $min)[1], ($k & 4 ? $max : $min)[2]);
    }

    return $corners;
}

/** CPU seconds of this process so far. */
function cpu(): float
{
    $u = getrusage();

    return $u['ru_utime.tv_sec'] + $u['ru_stime.tv_sec'] + ($u['ru_utime.tv_usec'] + $u['ru_stime.tv_usec']) * 1e-6;
}
