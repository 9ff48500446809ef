<?php

declare(strict_types=1);

// Many passes registered at once, against the truth: core/bin/php-jit core/bench/many.php twelve|thrown|loop SEED...
// twelve: 12 passes of some 100 k points, as a handheld rig leaves them; thrown: the same turned and shifted anywhere, with coarse: auto; loop: 200 frames of some 2 k points once around
// the pedestal, each walked 0.05 mm and 0.03 degrees off the one before. Off: how far a pass puts a corner of the part from where the first one has it.
require __DIR__.'/lib.php';

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\Register;
use Emberstone\Core\Register\RegisterParameters;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\Extent;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Rigs\Noise;
use Emberstone\Core\Rigs\RangeCamera;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

$part = Catalogue::part('pedestal');
$corners = partCorners($part);

/** Frames around the part; the pose that each believes, and the motion from there to the truth. */
$loop = function (int $seed) use ($part): array {
    $noise = new Noise($seed);
    $extent = Extent::of($part);
    [$centre, $reach] = [$extent->centre, $extent->reach];
    $walked = RigidTransform::identity();
    $passes = $onto = [];
    for ($k = 0; $k < 200; $k++) {
        $turn = 2.0 * M_PI * $k / 200;
        $eye = [$centre[0] + 3.7 * $reach * cos($turn), $centre[1] + 3.7 * $reach * sin($turn), $centre[2] + 2.0 * $reach];
        $points = (new RangeCamera(88, 66, 0.05))->render($part, $eye, $centre, $reach, null, false, $noise);
        if ($k > 0) {
            [$a, $b] = [$noise->direction(), $noise->direction()];
            $walked = $walked->then(RigidTransform::shift(-$centre[0], -$centre[1], -$centre[2]))->then(RigidTransform::turn($a, deg2rad(0.03)))
                ->then(RigidTransform::shift($centre[0] + 0.05 * $b[0], $centre[1] + 0.05 * $b[1], $centre[2] + 0.05 * $b[2]));
        }
        $passes[] = Pass::of(sprintf('frame %d', $k + 1), PointCloud::fromFlat($points, [], [], $eye)->transformed($walked));
        $onto[] = $walked->inverse();
    }

    return [$passes, $onto];
};

/** Twelve passes, thrown or not. */
$twelve = function (int $seed, bool $thrown) use ($part): array {
    $random = new Randomizer(new Xoshiro256StarStar($seed));
    $any = fn (): float => $random->getInt(-1_000_000, 1_000_000) / 1e6;
    $rig = new HandheldRig(passes: 12, width: 600, height: 450, table: false, turnsOver: false);
    $passes = $onto = [];
    for ($k = 0; $k < 12; $k++) {
        $capture = $rig->capture($part, $k, $seed);
        $by = $thrown ? RigidTransform::turn([$any(), $any(), $any()], M_PI * $any())->then(RigidTransform::shift(200.0 * $any(), 200.0 * $any(), 200.0 * $any())) : RigidTransform::identity();
        $passes[] = Pass::of('pass '.($k + 1), $capture['cloud']->transformed($by));
        $onto[] = $by->inverse()->then($capture['pose']);
    }

    return [$passes, $onto];
};

foreach (array_filter(array_slice($argv, 2), is_numeric(...)) as $seed) {
    [$passes, $onto] = $argv[1] === 'loop' ? $loop((int) $seed) : $twelve((int) $seed, $argv[1] === 'thrown');
    $points = array_map(fn (Pass $pass) => $pass->count(), $passes);
    $start = microtime(true);
    $off = [];
    try {
        $result = (new Register)(new Workpiece($passes), new RegisterParameters(coarse: $argv[1] === 'loop' ? 'none' : 'auto'), new NoProgress);
        $seconds = microtime(true) - $start;
        $words = implode(' ', $result->notes);
        $placed = $result->workpiece->passes;
        $part0 = $placed[0]->transform->inverse()->then($onto[0]);
        $off = array_map(fn (int $k) => round(PoseDistance::apart($onto[$k]->inverse()->then($placed[$k]->transform)->then($part0), RigidTransform::identity(), $corners), 3), array_keys($placed));
    } catch (UnsuitableInput $refused) {
        $seconds = microtime(true) - $start;
        $words = $refused->getMessage();
    }
    echo json_encode(['what' => $argv[1], 'seed' => (int) $seed, 'points a pass' => [min($points), max($points)], 'last to first mm' => end($off), 'farthest mm' => $off === [] ? null : max($off), 'seconds' => round($seconds, 1), 'words' => mb_substr($words, 0, 160)]), "\n";
}
