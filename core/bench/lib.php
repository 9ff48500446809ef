<?php

declare(strict_types=1);

// What the benchmarks share.
require __DIR__.'/../../vendor/autoload.php';

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

/** CPU seconds of this process so far. */
function cpu(): float
{
    $u = getrusage();

    return $u['ru_utime.tv_sec'] + $u['ru_stime.tv_sec'] + ($u['ru_utime.tv_usec'] + $u['ru_stime.tv_usec']) * 1e-6;
}
