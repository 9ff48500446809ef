<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Contract;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\ParamSpec;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\OperationExamples;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Every operation gives the same whatever unit its files are in, wherever in the project the work lies, and in whatever order passes and bodies came. */
final class AnywhereTest extends TestCase
{
    /** The farthest that anything may come to lie from where it lies at home, mm: what is searched for ends within this, exact operations far within. */
    private const SAME_MM = 0.02;

    /** Poses that these operations set do not depend on where the work lay. */
    private const ABSOLUTE = ['apply-fixture', 'solve-fixture', 'simulate'];

    /** Of the points of a cell any may stay, so middles differ by more. Triangles are laid otherwise where rounding decides, and their corners weigh otherwise with them. */
    private const SLACK = ['thin' => 5.0, 'remesh' => 30.0, 'quad-remesh' => 50.0];

    /** Share by which counts may differ, where it is more than one in a hundred. */
    private const COUNTS = ['remesh' => 0.08, 'quad-remesh' => 0.1];

    /** These look along the axes of the project on purpose. */
    private const UPRIGHT = ['turn', 'shift', 'centre', 'set-frame', 'move'];

    /**
     * Surfaces made on cells along the project's axes, of 1.5 and 2 mm, 0.8 mm for room about a body and 0.4 for a thickened sheet: 95 % of one lies nearer
     * to the other than this, mm. Noise is 0.02. What is rebuilt runs out beyond the data by as much as a cell, and the cells say where. What is laid anew lies within its deviation of the input, 0.2, each time.
     */
    private const GRIDS = ['fuse' => 0.08, 'rebuild' => 1.6, 'remesh' => 0.2, 'quad-remesh' => 0.3, 'clearance-cut' => 0.2, 'thicken' => 0.05];

    /** @var array<string, Result> by operation: what it gives at home */
    private static array $home = [];

    #[Test]
    #[DataProvider('operationsOnWork')]
    public function files_in_metres_inches_and_feet_give_what_those_in_millimetres_give(string $name): void
    {
        foreach (array_slice([Unit::Metre, Unit::Inch, Unit::Foot], 0, Gen::seeds(1, 3)) as $unit) {
            $mm = $unit->inMillimetres();
            $home = OperationExamples::workpiece($name);
            $workpiece = new Workpiece(
                array_map(fn (Pass $pass) => new Pass($pass->id, $pass->name, $pass->cloud()->scaled(1.0 / $mm), $pass->transform, $pass->mask, $pass->residual, $pass->overlap, $mm), $home->passes),
                array_map(fn (Body $body) => new Body($body->id, $body->name, $body->geometry->scaled(1.0 / $mm), $body->transform, $body->leftOpen, $mm), $home->bodies),
                $home->datums,
                $home->artefacts,
            );
            // As a recipe in that unit would say it.
            $told = OperationExamples::PARAMETERS[$name];
            foreach (ParamSpec::ofClass(Catalogue::operation($name)::about()->parameters) as $spec) {
                if (isset($told[$spec->name])) {
                    $told[$spec->name] = $spec->inMillimetres($told[$spec->name], 1.0 / $mm);
                }
            }
            $this->assertAsAtHome($name, Catalogue::operation($name)($workpiece, Catalogue::parameters($name, $told, $mm), new NoProgress), "in $unit->value");
        }
    }

    /** @return iterable<string, array{string}> but a simulated scan, which stands where its rig puts it */
    public static function operationsOnWork(): iterable
    {
        foreach (Catalogue::names() as $name) {
            if ($name !== 'simulate') {
                yield $name => [$name];
            }
        }
    }

    /** @return iterable<string, array{string}> those that are tried on several things; heads of a fixture go by their order */
    public static function operationsOnSeveral(): iterable
    {
        foreach (Catalogue::names() as $name) {
            if (! in_array($name, ['simulate', 'apply-fixture', 'despike'], true)) {
                yield $name => [$name];
            }
        }
    }

    #[Test]
    #[DataProvider('operationsOnWork')]
    public function work_a_kilometre_away_gives_what_it_gives_at_home(string $name): void
    {
        $away = [1.0e6, -5.0e5, 2.5e5];
        $home = OperationExamples::workpiece($name);
        $parameters = in_array($name, self::ABSOLUTE, true) ? OperationExamples::PARAMETERS[$name] : self::shifted(OperationExamples::PARAMETERS[$name], $away);
        $by = RigidTransform::shift(...$away);
        $home = in_array($name, self::ABSOLUTE, true) ? $home->withBodies([]) : $home;
        // As poses tell it, and as surveyed coordinates in the files do.
        $this->assertAsAtHome($name, Catalogue::operation($name)($home->moved($by), Catalogue::parameters($name, $parameters), new NoProgress), '1 km away');
        $surveyed = new Workpiece(
            array_map(fn (Pass $pass) => new Pass($pass->id, $pass->name, $pass->cloud()->transformed($by), $by->inverse()->then($pass->transform)->then($by), $pass->mask), $home->passes),
            array_map(fn (Body $body) => new Body($body->id, $body->name, $body->geometry->transformed($by), $by->inverse()->then($body->transform)->then($by), $body->leftOpen), $home->bodies),
            array_map(fn (Datum $datum) => $datum->moved($by), $home->datums),
            array_map(fn (Artefact $artefact) => $artefact->moved($by), $home->artefacts),
        );
        if (! in_array($name, self::ABSOLUTE, true)) {
            $this->assertAsAtHome($name, Catalogue::operation($name)($surveyed, Catalogue::parameters($name, $parameters), new NoProgress), 'in surveyed coordinates');
        }
    }

    /** @return iterable<string, array{string}> those whose parameters hold no place, direction or turn, and that do not bring things to places of the project's own */
    public static function operationsWithoutPlaces(): iterable
    {
        $holdsPlaces = function (mixed $value) use (&$holdsPlaces): bool {
            return is_array($value) && (count(array_filter($value, is_float(...))) >= 3 || array_filter($value, $holdsPlaces) !== []);
        };
        foreach (Catalogue::names() as $name) {
            if (! $holdsPlaces(OperationExamples::PARAMETERS[$name]) && ! in_array($name, [...self::ABSOLUTE, ...self::UPRIGHT], true)) {
                yield $name => [$name];
            }
        }
    }

    #[Test]
    #[DataProvider('operationsWithoutPlaces')]
    public function work_that_is_turned_gives_what_it_gives_as_it_was(string $name): void
    {
        foreach ([[[0.3, -0.5, 0.8], 2.1], [[-0.7, 0.1, 0.2], 0.9]] as [$axis, $angle]) {
            $by = RigidTransform::turn($axis, $angle);
            $there = Catalogue::operation($name)(OperationExamples::workpiece($name)->moved($by), Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]), new NoProgress);
            $back = new Result($there->workpiece->moved($by->inverse()), $there->headline, $there->before, $there->after, $there->notes, $there->outcome);
            if (! isset(self::GRIDS[$name])) {
                $this->assertAsAtHome($name, $back, sprintf('turned by %.1f rad', $angle), false);

                continue;
            }
            // Cells cut the surface elsewhere: the surfaces are compared, not their vertices.
            self::$home[$name] ??= Catalogue::operation($name)(OperationExamples::workpiece($name), Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]), new NoProgress);
            [$here, $now] = array_map(function (Result $result): TriangleMesh {
                $made = $result->workpiece->bodies[count($result->workpiece->bodies) - 1]->placed();
                assert($made instanceof TriangleMesh);

                return $made;
            }, [self::$home[$name], $back]);
            // What is made up has nothing to hold it.
            $measured = fn (TriangleMesh $mesh): TriangleMesh => $mesh->origin === [] ? $mesh : $mesh->withFaces(array_keys($mesh->origin, TriangleMesh::MEASURED, true));
            foreach ([SurfaceDistance::compare($measured($here), $now, 4000), SurfaceDistance::compare($measured($now), $here, 4000)] as $apart) {
                self::assertLessThan(self::GRIDS[$name], $apart['p95'], $name);
            }
        }
    }

    #[Test]
    #[DataProvider('operationsOnSeveral')]
    public function passes_and_bodies_in_another_order_give_the_same(string $name): void
    {
        $home = OperationExamples::workpiece($name);
        $parameters = OperationExamples::PARAMETERS[$name] + (in_array($name, ['register', 'match', 'match-markers'], true) ? ['reference' => $home->passes[0]->name] : []);
        $turned = new Workpiece(array_reverse($home->passes), array_reverse($home->bodies), array_reverse($home->datums), array_reverse($home->artefacts));
        $this->assertAsAtHome($name, Catalogue::operation($name)($turned, Catalogue::parameters($name, $parameters), new NoProgress), 'in another order', false);
    }

    private function assertAsAtHome(string $name, Result $there, string $how, bool $isExact = true): void
    {
        $home = self::$home[$name] ??= Catalogue::operation($name)(OperationExamples::workpiece($name), Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]), new NoProgress);
        self::assertSame($home->outcome, $there->outcome, $how);
        $bodies = $there->workpiece->bodies === [] ? [] : $home->workpiece->bodies;
        [$here, $now] = [self::told($home->workpiece->withBodies($bodies)), self::told($there->workpiece)];
        self::assertEqualsCanonicalizing(array_keys($here), array_keys($now), $how);
        $same = self::SAME_MM * (self::SLACK[$name] ?? 1.0) * ($isExact ? 1.0 : 3.0);
        foreach ($here as $item => ['count' => $count, 'faces' => $faces, 'box' => $box, 'mean' => $mean]) {
            // Roundings may send a point on the edge between two cells either way.
            $slack = self::COUNTS[$name] ?? ($isExact ? 0.01 : 0.03);
            self::assertEqualsWithDelta($count, $now[$item]['count'], max(1.0, $slack * $count), "$item $how: points");
            self::assertEqualsWithDelta($faces, $now[$item]['faces'], max(2.0, $slack * $faces), "$item $how: faces");
            self::assertEqualsWithDelta($mean, $now[$item]['mean'], $same, "$item $how: middle");
            self::assertEqualsWithDelta($box, $now[$item]['box'], 5.0 * $same, "$item $how: box");
        }
    }

    /**
     * What there is, by name, told from the middle of it all.
     *
     * @return array<string, array{count: int, faces: int, box: list<float>, mean: list<float>}>
     */
    private static function told(Workpiece $workpiece): array
    {
        $placed = [];
        foreach ([...$workpiece->passes, ...$workpiece->bodies] as $item) {
            $placed[($item instanceof Pass ? 'pass ' : 'body ').$item->name] = $item->placed();
        }
        if ($placed === []) {
            return [];
        }
        $all = BoundingBox::of(array_merge(...array_map(fn ($geometry) => $geometry->positions, array_values($placed))))->centre();
        $told = [];
        foreach ($placed as $name => $geometry) {
            $box = BoundingBox::of($geometry->positions);
            $sum = [0.0, 0.0, 0.0];
            foreach ($geometry->positions as $o => $v) {
                $sum[$o % 3] += $v - $all[$o % 3];
            }
            $n = max(1, intdiv(count($geometry->positions), 3));
            $told[$name] = [
                'count' => $n, 'faces' => isset($geometry->faces) ? intdiv(count($geometry->faces), 3) : 0,
                'box' => array_map(fn (float $v, int $k) => $v - $all[$k % 3], [...$box->min, ...$box->max], range(0, 5)), 'mean' => array_map(fn (float $v) => $v / $n, $sum),
            ];
        }

        return $told;
    }

    /**
     * Parameters with all places in them shifted.
     *
     * @param  array<mixed>  $values
     * @param  array{float, float, float}  $by
     * @return array<mixed>
     */
    private static function shifted(array $values, array $by): array
    {
        foreach ($values as $key => $value) {
            if (! is_array($value) || in_array($key, ['size', 'turn', 'direction', 'normal', 'up', 'indices', 'ranges'], true)) {
                continue;
            }
            $isPlace = array_is_list($value) && count($value) === 3 && array_filter($value, is_float(...)) === $value;
            $values[$key] = $isPlace ? array_map(fn (float $v, float $d) => $v + $d, $value, $by) : self::shifted($value, $by);
        }

        return $values;
    }
}
