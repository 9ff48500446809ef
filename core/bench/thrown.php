<?php

declare(strict_types=1);

// Passes thrown anywhere, registered with coarse: auto, against the truth: core/bin/php-jit core/bench/thrown.php pedestal|cap|ratchet-wheel|finial SEED... [--over]
// Eight passes of some 40 to 70 k points from a handheld rig carried once around the part, a third to two thirds of each in common with its neighbours; with --over four from above and
// four turned over, a fifth in common between the two. Off: how far each pass puts a corner of the part from where the first one has it; surface: p90 of its points to the exact part.
require __DIR__.'/lib.php';

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\Register;
use Emberstone\Core\Register\RegisterParameters;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\HandheldRig;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

$part = Catalogue::part($argv[1]);
$corners = partCorners($part);
$rig = new HandheldRig(table: false, turnsOver: in_array('--over', $argv, true));
foreach (array_filter(array_slice($argv, 2), is_numeric(...)) as $seed) {
    $random = new Randomizer(new Xoshiro256StarStar((int) $seed));
    $any = fn (): float => $random->getInt(-1_000_000, 1_000_000) / 1e6;
    $passes = $onto = [];
    for ($k = 0; $k < $rig->passes(); $k++) {
        $capture = $rig->capture($part, $k, (int) $seed);
        $thrown = RigidTransform::turn([$any(), $any(), $any()], M_PI * $any())->then(RigidTransform::shift(200.0 * $any(), 200.0 * $any(), 200.0 * $any()));
        $passes[] = Pass::of('pass '.($k + 1), $capture['cloud']->transformed($thrown));
        $onto[] = $thrown->inverse()->then($capture['pose']);
    }
    $start = microtime(true);
    $off = $surface = [];
    try {
        $result = (new Register)(new Workpiece($passes), new RegisterParameters(coarse: 'auto'), new NoProgress);
        $words = implode(' ', $result->notes);
        $placed = $result->workpiece->passes;
        $part0 = $placed[0]->transform->inverse()->then($onto[0]);
        foreach ($placed as $k => $pass) {
            $off[] = round(PoseDistance::apart($onto[$k]->inverse()->then($pass->transform)->then($part0), RigidTransform::identity(), $corners), 3);
            $distances = [];
            $p = $pass->transform->then($part0)->points($pass->cloud()->positions);
            for ($o = 0, $e = count($p); $o < $e; $o += 30) {
                $distances[] = abs($part->distance($p[$o], $p[$o + 1], $p[$o + 2]));
            }
            sort($distances);
            $surface[] = round($distances[(int) (0.9 * count($distances))], 3);
        }
    } catch (UnsuitableInput $refused) {
        $words = $refused->getMessage();
    }
    echo json_encode(['part' => $part->name(), 'seed' => (int) $seed, 'outcome' => $off === [] ? 'refused' : (max($off) <= 0.15 ? 'right' : 'wrong'), 'off mm' => $off, 'surface p90 mm' => $surface, 'seconds' => round(microtime(true) - $start, 1), 'words' => mb_substr($words, 0, 160)]), "\n";
}
