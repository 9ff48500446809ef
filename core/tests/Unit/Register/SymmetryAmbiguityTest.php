<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Register\Coarse\AssemblyScore;
use Emberstone\Core\Register\Coarse\Overlaps;
use Emberstone\Core\Register\Coarse\RigidClusters;
use Emberstone\Core\Register\Coarse\ShapePlaces;
use Emberstone\Core\Register\Diagnosis\SymmetryAmbiguity;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Register\PreparedPass;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Rigs\Part;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\WeightStone;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Half around its upright the pedestal looks the same but for the year on its front, which looks at its ends do not show. */
final class SymmetryAmbiguityTest extends TestCase
{
    /** @return array{Icp, list<PreparedPass>, AssemblyScore, RigidClusters} eight looks around a part, tightened where they belong */
    private function standing(Part $part, int $width, int $height): array
    {
        $rig = new HandheldRig(width: $width, height: $height, table: false, turnsOver: false, driftMm: 0.0, driftDeg: 0.0);
        $passes = [];
        for ($k = 0; $k < 8; $k++) {
            $capture = Captures::of($rig, $part, $k, 6);
            $passes[] = Pass::of("pass $k", $capture['cloud'])->moved($capture['pose']);
        }
        $prepared = Prepare::all($passes, new NoProgress);
        $spacing = max(array_map(fn (PreparedPass $pass) => $pass->spacing, $prepared));
        $fit = new Icp($prepared, 5.0 * $spacing, 2.5 * $spacing);
        $fit->together(Overlaps::pairs($fit->overlaps(5.0 * $spacing)), [0], new NoProgress);
        $standing = new AssemblyScore($fit, $prepared, $spacing);
        $pairs = [];
        for ($i = 0; $i < 7; $i++) {
            array_push($pairs, ...$standing->of([$i], range($i + 1, 7)));
        }
        $standing->expect($pairs);

        return [$fit, $prepared, $standing, new RigidClusters($fit, $prepared, $standing, 5.0 * $spacing, [0], array_map(fn (int $k) => [$k], range(0, 7)))];
    }

    #[Test]
    public function looks_that_could_change_places_are_doubtful_and_stay_where_they_are(): void
    {
        [$fit, $prepared, $standing, $groups] = $this->standing(new BearingPedestal, 160, 120);
        $stood = array_map(fn (PreparedPass $pass) => $pass->transform, $prepared);
        $doubtful = (new SymmetryAmbiguity($fit, $prepared, $standing, $groups))->doubtful(new NoProgress);
        // The looks at both ends, and with each of them its like.
        self::assertContains(2, $doubtful);
        self::assertContains(6, $doubtful);
        self::assertNotContains(0, $doubtful, 'the first stays: it is the others that would stand elsewhere');
        self::assertSame($stood, array_map(fn (PreparedPass $pass) => $pass->transform, $prepared));

        $motions = (new ShapePlaces($fit, $prepared, $standing, [range(0, 7)]))->ofItself(0, 0.7);
        self::assertCount(1, $motions, 'it has two like sides');
        self::assertEqualsWithDelta(180.0, $motions[0]->angleDeg(), 0.3);
        self::assertLessThan(1.0, sqrt($motions[0]->matrix[3] ** 2 + $motions[0]->matrix[7] ** 2 + $motions[0]->matrix[11] ** 2));
    }

    #[Test]
    #[Group('nightly')]
    public function none_are_doubtful_of_a_part_without_like_sides_or_where_they_are_told_apart(): void
    {
        [$fit, $prepared, $standing, $groups] = $this->standing(new WeightStone, 160, 120);
        self::assertSame([], (new SymmetryAmbiguity($fit, $prepared, $standing, $groups))->doubtful(new NoProgress));
        [$fit, $prepared, $standing, $groups] = $this->standing(new BearingPedestal, 400, 300);
        self::assertSame([], (new SymmetryAmbiguity($fit, $prepared, $standing, $groups))->doubtful(new NoProgress));
    }
}
