<?php

declare(strict_types=1);

// What the raw points themselves let a plane of the pedestal be known to: least squares through all of them in their exact poses: php core/bench/floor.php SEED...
// No fit to the fused mesh can be expected to do better.
require __DIR__.'/../../vendor/autoload.php';

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;

ini_set('memory_limit', '4G');
/** Name => axis, where the plane lies on it, and what of it lies away from its edges. */
$planes = [
    'side strip' => [0, 60.0, fn (float $x, float $y, float $z) => abs($y) < 33.0 && $z > 2.0 && $z < 12.0],
    'other side strip' => [0, -60.0, fn (float $x, float $y, float $z) => abs($y) < 33.0 && $z > 2.0 && $z < 12.0],
    'end' => [1, -30.0, fn (float $x, float $y, float $z) => hypot($x, $z - 52.0) > 17.0 && hypot($x, $z - 52.0) < 25.0],
    'other end' => [1, 30.0, fn (float $x, float $y, float $z) => hypot($x, $z - 52.0) > 17.0 && hypot($x, $z - 52.0) < 25.0],
    'base' => [2, 0.0, fn (float $x, float $y, float $z) => abs($x) < 34.0 && abs($y) < 33.0],
    'top of the base' => [2, 14.0, fn (float $x, float $y, float $z) => abs($x) > 28.0 && abs($x) < 58.0 && abs($y) > 8.0 && abs($y) < 33.0],
];
$rig = new HandheldRig(frameDriftMm: 0.0);
foreach (array_slice($argv, 1) as $seed) {
    $sums = array_fill_keys(array_keys($planes), ['a' => array_fill(0, 9, 0.0), 'b' => [0.0, 0.0, 0.0], 'squares' => 0.0]);
    for ($index = 0; $index < $rig->passes(); $index++) {
        ['cloud' => $cloud, 'pose' => $pose] = $rig->capture(new BearingPedestal, $index, (int) $seed);
        foreach (array_chunk($cloud->transformed($pose)->positions, 3) as $p) {
            foreach ($planes as $name => [$axis, $at, $inside]) {
                $off = $p[$axis] - $at;
                if (abs($off) > 0.25 || ! $inside(...$p)) {
                    continue;
                }
                $row = [1.0, $p[($axis + 1) % 3], $p[($axis + 2) % 3]];
                for ($i = 0; $i < 9; $i++) {
                    $sums[$name]['a'][$i] += $row[intdiv($i, 3)] * $row[$i % 3];
                }
                for ($i = 0; $i < 3; $i++) {
                    $sums[$name]['b'][$i] += $row[$i] * $off;
                }
                $sums[$name]['squares'] += $off * $off;
            }
        }
    }
    foreach ($sums as $name => $sum) {
        [, $u, $v] = Dense::solve($sum['a'], $sum['b'], 3);
        $error = sqrt($sum['squares'] / $sum['a'][0] * (Dense::solve($sum['a'], [0.0, 1.0, 0.0], 3)[1] + Dense::solve($sum['a'], [0.0, 0.0, 1.0], 3)[2]));
        printf("seed %s, %-16s %6d points: %.4f deg off, standard error %.4f deg\n", $seed, $name, $sum['a'][0], rad2deg(hypot($u, $v)), rad2deg($error));
    }
}
