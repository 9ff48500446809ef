<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Register\Coarse\AssemblyScore;
use Emberstone\Core\Register\Coarse\PairScoreCache;
use Emberstone\Core\Register\Coarse\PoseAssemblySearch;
use Emberstone\Core\Register\Coarse\RigidClusters;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Register\PreparedPass;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\WeightStone;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class PoseAssemblySearchTest extends TestCase
{
    #[Test]
    public function what_of_a_puzzle_has_enough_in_common_is_a_piece_and_is_laid_as_one(): void
    {
        $rig = new HandheldRig(width: 160, height: 120, table: false, turnsOver: false);
        $passes = [];
        foreach ([0, 3, 1, 4] as $k) {
            $capture = Captures::of($rig, new WeightStone, $k, 5);
            // The looks from the other side belong together too, but lie half a metre away.
            $passes[] = Pass::of("look $k", $capture['cloud'])->moved($capture['pose']->then(RigidTransform::shift($k > 2 ? 500.0 : 0.0, 0.0, 0.0)));
        }
        $prepared = Prepare::all($passes, new NoProgress);
        $spacing = $prepared[0]->spacing;
        $fit = new Icp($prepared, 6.0 * $spacing, 2.5 * $spacing);
        $standing = new AssemblyScore($fit, $prepared, $spacing);
        $poses = array_map(fn (PreparedPass $pass) => $pass->transform, $prepared);
        $verdicts = new PairScoreCache($fit, $prepared, $standing, $spacing, 8.0);
        $every = [];
        foreach ([[0, 1], [0, 2], [0, 3], [1, 2], [1, 3], [2, 3]] as [$i, $j]) {
            $every[] = [[$i, $j, $poses[$i]->then($poses[$j]->inverse())]];
        }
        $verdicts->find($every, new NoProgress);
        $groups = new RigidClusters($fit, $prepared, $standing, 6.0 * $spacing, [0], [[0], [1], [2], [3]]);
        $puzzles = new PoseAssemblySearch($prepared, $groups, [], $poses, $standing, $verdicts);

        $whole = ['parts' => ['all' => [0, 1, 2, 3]], 'poses' => $poses, 'worth' => 0.0];
        self::assertSame([[0, 2], [1, 3]], $puzzles->pieces->of($whole, 0.15));
        self::assertSame([1, 3], $puzzles->pieces->loose($whole, 0.15));
        self::assertSame([[0], [1], [2], [3]], $puzzles->pieces->of($whole, 0.95), 'so much in common no two have');
        // What was not put together does not count, however it stands.
        self::assertSame([[0], [1, 3], [2]], $puzzles->pieces->of(['parts' => ['one' => [0], 'two' => [2], 'three' => [1, 3]], 'poses' => $poses, 'worth' => 0.0], 0.15));
        $joined = $groups->joined([[0, 2], [1, 3]]);
        self::assertSame([[0, 2], [1, 3]], $joined->of);
        self::assertSame('look 3, look 4', $joined->names([1]));

        // Shape says nothing of how the two sides lie on each other: what was put together comes in two pieces, once.
        $edges = array_map(fn (array $on) => ['group' => $on[0], 'on' => $on[1], 'motion' => RigidTransform::identity(), 'worth' => 1.0], [[2, 0], [3, 1], [2, 0]]);
        $puzzles = new PoseAssemblySearch($prepared, $groups, $edges, $poses, $standing, $verdicts);
        self::assertSame([1, 3], $puzzles->pieces->missing($puzzles->together(new NoProgress)));
        $laid = $puzzles->inPieces(0.15, 6);
        self::assertSame([2, 3, 3], array_map(fn (array $puzzle) => count($puzzle['parts']), $laid), 'the fewest pieces first');
        self::assertSame([[0, 2], [1, 3]], array_values($laid[0]['parts']));
        foreach ($poses as $k => $pose) {
            self::assertEqualsWithDelta($pose->matrix, $laid[0]['poses'][$k]->matrix, 1e-9);
        }
        self::assertCount(1, $puzzles->inPieces(0.15, 1));
        self::assertSame([], $puzzles->inPieces(0.95, 6), 'pieces of one pass each are none');
    }
}
