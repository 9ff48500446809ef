<?php

declare(strict_types=1);

// Datums fitted to the fused pedestal, against the exact part and each other: php core/bench/fits.php MESH.ply
// The whole mesh may stand off by what registering missed; angles and distances between datums are free of that.
require __DIR__.'/../../vendor/autoload.php';

use Emberstone\Core\Datums\Uncertainty;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;

$mesh = Formats::read($argv[1])->geometry;
assert($mesh instanceof TriangleMesh);
$workpiece = new Workpiece([], [Body::of('Pedestal', $mesh)]);
$add = function (array $parameters) use (&$workpiece): Datum {
    $workpiece = Catalogue::operation('add-datum')($workpiece, Catalogue::parameters('add-datum', $parameters), new NoProgress)->workpiece;

    return $workpiece->datums[count($workpiece->datums) - 1];
};
/** Faces whose middle the test takes, as a region. */
$region = function (callable $takes) use ($mesh): array {
    $ranges = [];
    for ($t = 0, $n = $mesh->faceCount(); $t < $n; $t++) {
        $at = [0.0, 0.0, 0.0];
        for ($c = 0; $c < 3; $c++) {
            for ($k = 0; $k < 3; $k++) {
                $at[$k] += $mesh->positions[3 * $mesh->faces[3 * $t + $c] + $k] / 3.0;
            }
        }
        if ($takes(...$at)) {
            $last = count($ranges) - 1;
            if ($last >= 0 && $ranges[$last][1] === $t - 1) {
                $ranges[$last][1] = $t;
            } else {
                $ranges[] = [$t, $t];
            }
        }
    }

    return [['target' => 'Pedestal', 'ranges' => $ranges]];
};
$angle = fn (Datum $a, Datum $b) => rad2deg(acos(min(1.0, abs($a->direction[0] * $b->direction[0] + $a->direction[1] * $b->direction[1] + $a->direction[2] * $b->direction[2]))));
$square = fn (Datum $a, Datum $b) => abs(90.0 - $angle($a, $b));

$base = $add(['name' => 'base', 'seed' => [30, 20, 0]]);
$top = $add(['name' => 'top', 'seed' => [40, 25, 14]]);
$front = $add(['name' => 'end', 'seed' => [0, -30, 73]]);
$back = $add(['name' => 'other end', 'seed' => [0, 30, 73]]);
$side = $add(['name' => 'side', 'seed' => [60, 0, 7]]);
$bore = $add(['name' => 'bore', 'kind' => 'cylinder', 'seed' => [0, 3, 37], 'angle' => 20]);
$boss = $add(['name' => 'boss', 'kind' => 'cylinder', 'seed' => [0, 3, 79], 'angle' => 20]);
printf("planes: base to top %.4f, to side %.4f, ends to each other %.4f, end to base %.4f deg; base to top %.3f mm (14)\n", $angle($base, $top), $square($base, $side), $angle($front, $back), $square($base, $front), $top->origin[2] - $base->origin[2]);
$said = fn (Datum $datum): string => sprintf('%s %.4f', $datum->name, Uncertainty::of($datum)->angleDeg);
printf("what the fits say themselves, one standard deviation, deg: %s\n", implode(', ', array_map($said, [$base, $top, $side, $front, $back, $bore, $boss])));
$height = fn (Datum $axis) => abs($base->outside($axis->origin));
printf("cylinders: bore %.3f mm (30), %.4f deg to base, %.4f to ends, %.3f mm over base (52); boss %.3f mm (54), %.4f deg to base, axes %.3f mm apart\n", 2 * $bore->radius, $square($bore, $base), $angle($bore, $front), $height($bore), 2 * $boss->radius, $square($boss, $base), $bore->outside($boss->origin) + $bore->radius);
// A third of the circumference, from the faces themselves.
foreach ([0, 90, 180] as $from) {
    $third = $add(['name' => "third $from", 'kind' => 'cylinder', 'region' => $region(fn (float $x, float $y, float $z) => abs(hypot($x, $z - 52.0) - 15.0) < 0.5 && abs($y) < 29.0 && fmod(rad2deg(atan2($z - 52.0, $x)) - $from + 720.0, 360.0) < 120.0)]);
    printf("third of the bore from %d deg: %.3f mm, %.4f deg, %.3f mm off\n", $from, 2 * $third->radius, $angle($third, $bore), abs($bore->outside($third->origin) + $bore->radius));
}
// The bore with a fifth of something else: the end faces around its mouths.
$faces = fn (array $region) => array_sum(array_map(fn (array $r) => $r[1] - $r[0] + 1, $region[0]['ranges']));
$inside = fn (float $x, float $y, float $z) => abs(hypot($x, $z - 52.0) - 15.0) < 0.5 && abs($y) < 29.0;
$much = $region(fn (float $x, float $y, float $z) => $inside($x, $y, $z) || abs(abs($y) - 30.0) < 0.4 && hypot($x, $z - 52.0) < 21.5 && hypot($x, $z - 52.0) > 15.3);
$spoilt = $add(['name' => 'spoilt', 'kind' => 'cylinder', 'region' => $much]);
printf("bore with %.0f %% of other surface: %.3f mm, %.4f deg\n", 100 * (1 - $faces($region($inside)) / $faces($much)), 2 * $spoilt->radius, $angle($spoilt, $bore));
