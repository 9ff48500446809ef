<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Datums;

use Emberstone\Core\Datums\Construct;
use Emberstone\Core\Datums\Uncertainty;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\NoisySheet;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** What errors of datums make of those that are made of them, against known answers and against noise that was put on. */
final class CarriedErrorTest extends TestCase
{
    /** Scatter about the fits of the parents, mm. */
    private const RMS = 0.02;

    private static function plane(string $name, float ...$normal): Datum
    {
        return new Datum($name, $name, 'plane', [0.0, 0.0, 0.0], [$normal[0], $normal[1], $normal[2]], size: 10.0, rms: self::RMS, points: 5000, made: 'spread');
    }

    /** @return array{float|null, float|null} place, mm, and angle, degrees, of what is made */
    private static function made(string $how, Datum ...$of): array
    {
        $error = Uncertainty::of(Construct::of(['how' => $how, 'of' => array_column($of, 'name'), 'by' => 5.0], array_values($of), 'made'));

        return [$error->placeMm, $error->angleDeg];
    }

    #[Test]
    public function what_is_made_is_as_sure_as_what_it_is_made_of(): void
    {
        $base = self::plane('base', 0.0, 0.0, 1.0);
        [$s, $lean] = [Uncertainty::of($base)->placeMm, Uncertainty::of($base)->angleDeg];
        self::assertGreaterThan(0.0, $s);
        // A plane that leans about its middle moves a parallel one at its own middle along itself only.
        self::assertEqualsWithDelta([$s, sqrt(2.0) * $lean], self::made('offset', $base), 1e-3 * $s);
        self::assertEqualsWithDelta($s / sqrt(2.0), self::made('halfway', $base, self::plane('lid', 0.0, 0.0, -1.0))[0], 1e-3 * $s);
        // Two square planes fix their line to either side; each turns it about one direction across it.
        self::assertEqualsWithDelta([sqrt(2.0) * $s, sqrt(2.0) * $lean], self::made('meet', $base, self::plane('wall', 1.0, 0.0, 0.0)), 1e-3 * $s);
        // Planes that meet at 10 degrees fix it less well along the way between them.
        self::assertGreaterThan(5.0 * $s, self::made('meet', $base, self::plane('slope', sin(deg2rad(10.0)), 0.0, cos(deg2rad(10.0))))[0]);
    }

    #[Test]
    public function of_what_is_exact_all_is_exact_and_of_what_is_unknown_nothing_is_known(): void
    {
        $typed = new Datum('typed', 'typed', 'plane', [0.0, 0.0, 3.0], [0.0, 0.0, 1.0]);
        self::assertSame([0.0, 0.0], self::made('offset', $typed));
        self::assertSame([null, null], self::made('offset', new Datum('unknown', 'unknown', 'plane', [0.0, 0.0, 3.0], [0.0, 0.0, 1.0], made: 'symmetry')));
    }

    #[Test]
    public function it_grows_with_the_part_and_goes_where_it_goes(): void
    {
        $made = Construct::of(['how' => 'offset', 'of' => ['base'], 'by' => 5.0], [self::plane('base', 0.0, 0.0, 1.0)], 'made');
        self::assertSame(25.4 * Uncertainty::of($made)->placeMm, Uncertainty::of($made->scaled(25.4))->placeMm);
        self::assertSame(Uncertainty::of($made)->angleDeg, Uncertainty::of(Datum::fromArray($made->scaled(25.4)->toArray()))->angleDeg);
    }

    #[Test]
    public function planes_picked_on_noise_lean_as_much_as_they_say(): void
    {
        [$sigma, $squares, $told] = [0.02, 0.0, 0.0];
        for ($seed = 1; $seed <= 60; $seed++) {
            $sheet = NoisySheet::of(1e9, $sigma, $seed);
            $corners = array_map(fn (int $v) => array_slice($sheet->positions, 3 * $v, 3), [5 * 41 + 5, 35 * 41 + 5, 20 * 41 + 35]);
            $workpiece = new Workpiece(bodies: [Body::of('Sheet', $sheet)]);
            $datum = Catalogue::operation('add-datum')($workpiece, Catalogue::parameters('add-datum', ['name' => 'P', 'kind' => 'plane', 'points' => $corners]), new NoProgress)->workpiece->datums[0];
            $squares += rad2deg(asin(hypot($datum->direction[0], $datum->direction[1]))) ** 2 / 60;
            $told += Uncertainty::of($datum)->angleDeg ** 2 / 60;
        }
        // Sixty angles tell their mean square to a sixth of itself.
        self::assertEqualsWithDelta(1.0, sqrt($squares / $told), 0.25);
    }
}
