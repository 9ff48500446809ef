<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Datums\FitDatum;
use Emberstone\Core\Datums\FrameCheck;
use Emberstone\Core\Datums\Uncertainty;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** What datums measure in a frame, and what their fits leave open of it. */
final class FrameCheckTest extends TestCase
{
    #[Test]
    public function each_kind_is_measured_by_what_it_has(): void
    {
        $lean = deg2rad(0.2);
        $rows = FrameCheck::of([
            new Datum('1', 'Base', 'plane', [3.0, 4.0, 0.5], [0.0, sin($lean), -cos($lean)]),
            new Datum('2', 'Bore', 'cylinder', [2.0, 7.0, 52.0], [0.0, 1.0, 0.0], 15.0),
            new Datum('3', 'Ball', 'sphere', [1.0, 2.0, 3.0], radius: 4.0),
            new Datum('4', 'F', 'frame', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0], across: [1.0, 0.0, 0.0]),
        ]);
        $of = fn (string $name) => array_map(fn (array $row) => [$row['what'], round($row['value'], 9), $row['unit']], array_values(array_filter($rows, fn (array $row) => $row['datum'] === $name)));
        self::assertSame([['normal to Z', 0.2, 'deg'], ['Z', 0.5, 'mm']], $of('Base'));
        self::assertSame([['axis to Y', 0.0, 'deg'], ['X', 2.0, 'mm'], ['Z', 52.0, 'mm'], ['diameter', 30.0, 'mm']], $of('Bore'));
        self::assertSame([['X', 1.0, 'mm'], ['Y', 2.0, 'mm'], ['Z', 3.0, 'mm'], ['diameter', 8.0, 'mm']], $of('Ball'));
        self::assertSame(['X', 'Y', 'Z'], array_column($of('F'), 0));
        self::assertSame([null], array_values(array_unique(array_column($rows, 'plusMinus'))), 'what was typed has no fit to tell');
    }

    #[Test]
    public function what_a_fit_leaves_open_is_about_how_far_it_misses_the_truth(): void
    {
        // Planes picked by 60 points each with noise of 0.05 mm: the spread of their directions and heights over 300 fits against what one fit says.
        $gen = new Gen(11);
        $angles = $heights = $said = $saidHeights = 0.0;
        for ($k = 0; $k < 300; $k++) {
            $points = [];
            for ($i = 0; $i < 60; $i++) {
                $points[] = [$gen->float(-20.0, 20.0), $gen->float(-20.0, 20.0), 0.05 * sqrt(3.0) * $gen->float(-1.0, 1.0)];
            }
            $plane = FitDatum::fromPoints($points, 'plane', 'p');
            $open = Uncertainty::of($plane);
            // About one direction across.
            $angles += rad2deg($plane->direction[0]) ** 2;
            $heights += $plane->outside([0.0, 0.0, 0.0]) ** 2;
            $said += $open->angleDeg ** 2;
            $saidHeights += $open->placeMm ** 2;
        }
        self::assertEqualsWithDelta(1.0, sqrt($said / $angles), 0.35);
        self::assertEqualsWithDelta(1.0, sqrt($saidHeights / $heights), 0.15);
    }

    #[Test]
    public function a_lock_is_as_open_as_the_datum_that_locks_it(): void
    {
        $base = new Datum('1', 'Base', 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0], size: 40.0, rms: 0.05, points: 5000, made: 'spread');
        $locks = ['shiftX' => null, 'shiftY' => 'Place', 'shiftZ' => 'Base', 'turnX' => 'Base', 'turnY' => 'Base', 'turnZ' => null];
        $open = FrameCheck::ofLocks($locks, [$base, new Datum('2', 'Place', 'point', [0.0, 0.0, 0.0])]);
        self::assertNull($open['shiftX']);
        self::assertNull($open['shiftY']);
        self::assertNull($open['turnZ']);
        // 5,000 faces count as 20 places, of which a plane takes three.
        self::assertEqualsWithDelta(0.05 / sqrt(17.0), $open['shiftZ'], 1e-12);
        self::assertEqualsWithDelta(rad2deg(0.05 / sqrt(17.0) / (40.0 / sqrt(3.0))), $open['turnX'], 1e-12);
    }
}
