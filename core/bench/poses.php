<?php

declare(strict_types=1);

// Pose errors over the limit of the data: core/bin/php-jit core/bench/poses.php PART... [--seed N]
// Ten passes of a handheld rig (some 20 to 30 k points each, noise 0.05 mm, poses off by up to 3 mm and 2 degrees, no drift inside a capture), registered as captured, from their true poses, with files in
// metres, and 100 m away. Off: the farthest that a pass puts a corner of the part from where the first one has it. Limit: its standard error there if the exact normals were known: small cells of the exact
// surface, each at an unknown height, seen with the noise that the rig has across it.
require __DIR__.'/lib.php';

use Emberstone\Core\Algorithms\Linear\SymmetricEigen;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\Register;
use Emberstone\Core\Register\RegisterParameters;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Rigs\Part;

/** Edge of the cells of the exact surface, mm. */
const CELL = 1.5;

/**
 * The standard error of each pass at the worst corner, mm; the first pass stays.
 *
 * @param  list<array{cloud: PointCloud, pose: RigidTransform}>  $captures
 * @param  list<float>  $corners
 * @return list<float>
 */
function limits(Part $part, array $captures, float $noise, array $corners): array
{
    $n = count($captures);
    $cells = [];
    foreach ($captures as $k => ['cloud' => $cloud, 'pose' => $pose]) {
        $placed = $cloud->transformed($pose);
        [$ex, $ey, $ez] = $placed->sensorOrigin ?? [0.0, 0.0, 0.0];
        $p = $placed->positions;
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            [$x, $y, $z] = [$p[$o], $p[$o + 1], $p[$o + 2]];
            if (abs($part->distance($x, $y, $z)) > 6.0 * $noise) {
                continue;
            }
            $h = 1e-3;
            $m = [$part->distance($x + $h, $y, $z) - $part->distance($x - $h, $y, $z), $part->distance($x, $y + $h, $z) - $part->distance($x, $y - $h, $z), $part->distance($x, $y, $z + $h) - $part->distance($x, $y, $z - $h)];
            $l = sqrt($m[0] ** 2 + $m[1] ** 2 + $m[2] ** 2);
            if ($l < 1.9 * $h) {
                continue;
            }
            [$a, $b, $c] = [$m[0] / $l, $m[1] / $l, $m[2] / $l];
            $cos = abs($a * ($ex - $x) + $b * ($ey - $y) + $c * ($ez - $z)) / sqrt(($ex - $x) ** 2 + ($ey - $y) ** 2 + ($ez - $z) ** 2);
            // As RangeCamera spreads points along the ray, seen across the surface.
            $weight = 1.0 / ($noise * (0.85 * $cos + 0.15)) ** 2;
            $j = [$y * $c - $z * $b, $z * $a - $x * $c, $x * $b - $y * $a, $a, $b, $c];
            $key = ((int) floor($x / CELL)).' '.((int) floor($y / CELL)).' '.((int) floor($z / CELL)).' '.round(4 * $a).' '.round(4 * $b).' '.round(4 * $c);
            $cells[$key][$k] ??= [0.0, array_fill(0, 6, 0.0), array_fill(0, 36, 0.0)];
            $cells[$key][$k][0] += $weight;
            for ($r = 0; $r < 6; $r++) {
                $cells[$key][$k][1][$r] += $weight * $j[$r];
                for ($s = 0; $s < 6; $s++) {
                    $cells[$key][$k][2][6 * $r + $s] += $weight * $j[$r] * $j[$s];
                }
            }
        }
    }
    $size = 6 * ($n - 1);
    $h = array_fill(0, $size * $size, 0.0);
    foreach ($cells as $cell) {
        $all = array_sum(array_column($cell, 0));
        foreach ($cell as $i => [$weight, $sum, $squares]) {
            foreach ($cell as $j => [, $other]) {
                for ($r = 0; $i > 0 && $j > 0 && $r < 36; $r++) {
                    $h[(6 * ($i - 1) + intdiv($r, 6)) * $size + 6 * ($j - 1) + $r % 6] += ($i === $j ? $squares[$r] : 0.0) - $sum[intdiv($r, 6)] * $other[$r % 6] / $all;
                }
            }
        }
    }
    $found = SymmetricEigen::of($h, $size);
    $limits = [0.0];
    for ($k = 0; $k < $n - 1; $k++) {
        $worst = 0.0;
        foreach (array_chunk($corners, 3) as [$x, $y, $z]) {
            $variance = 0.0;
            foreach ($found['vectors'] as $v => $vector) {
                [$a, $b, $c, $d, $e, $f] = array_slice($vector, 6 * $k, 6);
                $variance += (($d + $b * $z - $c * $y) ** 2 + ($e + $c * $x - $a * $z) ** 2 + ($f + $a * $y - $b * $x) ** 2) / max(1e-12, $found['values'][$v]);
            }
            $worst = max($worst, sqrt($variance));
        }
        $limits[] = $worst;
    }

    return $limits;
}

$seed = (int) (($at = array_search('--seed', $argv, true)) === false ? 1 : $argv[$at + 1]);
foreach (array_filter(array_slice($argv, 1), fn (string $word) => in_array($word, array_keys(Catalogue::parts()), true)) as $name) {
    $part = Catalogue::part($name);
    $corners = partCorners($part);
    $rig = new HandheldRig(passes: 10, width: 330, height: 248, table: false, frameDriftMm: 0.0);
    $captures = array_map(fn (int $k) => $rig->capture($part, $k, $seed), range(0, 9));
    $limits = limits($part, $captures, $rig->noiseMm(), $corners);
    $away = RigidTransform::shift(1e5, -6e4, 3e4);
    $still = RigidTransform::identity();
    foreach (['as captured' => [false, $still, 1.0], 'from the truth' => [true, $still, 1.0], 'in metres' => [false, $still, 1000.0], '100 m away' => [false, $away, 1.0]] as $how => [$isTrue, $by, $mm]) {
        $passes = array_map(fn (array $one, int $k) => new Pass("p$k", "p$k", $one['cloud']->scaled(1.0 / $mm), ($isTrue ? $one['pose'] : $still)->then($by), scale: $mm), $captures, array_keys($captures));
        $begun = cpu();
        $start = microtime(true);
        $result = (new Register)(new Workpiece($passes), new RegisterParameters(maxDistance: 6.0), new NoProgress);
        $off = $over = $told = [];
        $first = $result->workpiece->passes[0]->transform->then($by->inverse())->inverse()->then($captures[0]['pose']);
        foreach ($result->workpiece->passes as $k => $pass) {
            $off[] = PoseDistance::apart($captures[$k]['pose']->inverse()->then($pass->transform->then($by->inverse()))->then($first), $still, $corners);
            $over[] = $k === 0 ? 0.0 : $off[$k] / max(1e-6, $limits[$k]);
            $told[] = $result->after['passes'][$k]['standardError']['held'] ?? true;
        }
        printf("%-14s %-14s: off %.4f mm at most, %.4f in the mean | %.1f times the limit at most (limits %.4f to %.4f mm) | %d of 9 held loosely | %.1f s\n", $name, $how, max($off), array_sum($off) / 9.0, max($over), min(array_slice($limits, 1)), max($limits), count(array_filter($told, fn (bool $held) => ! $held)), microtime(true) - $start);
    }
}
