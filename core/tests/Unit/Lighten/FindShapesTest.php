<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Lighten;

use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class FindShapesTest extends TestCase
{
    use Refuses;

    /** @param  array<string, mixed>  $parameters */
    private static function step(Workpiece $workpiece, string $op, array $parameters = []): Workpiece
    {
        return Catalogue::operation($op)($workpiece, Catalogue::parameters($op, $parameters), new NoProgress)->workpiece;
    }

    /** A bush of 30 by 20, 15 high, its bottom 7 mm over the origin. */
    private static function bush(): Workpiece
    {
        return new Workpiece(bodies: [Body::of('Bush', SimpleSolid::tube([0.0, 0.0, 7.0], [0.0, 0.0, 1.0], 30.0, 20.0, 15.0))]);
    }

    /** @return list<array{id: string, body: string, kind: string, parameters: array<string, mixed>, area: float, faces: int, rms: float, max: float}> */
    private static function report(Workpiece $workpiece, float $mm = 1.0): array
    {
        return ShapeMap::ofArtefact($workpiece->artefacts[0])->report('Bush', $mm);
    }

    #[Test]
    public function shapes_are_listed_by_size_with_the_parameters_of_datums_and_go_where_the_body_goes(): void
    {
        $found = self::step(self::bush(), 'find-shapes');
        self::assertCount(1, $found->artefacts);
        $list = self::report($found);
        self::assertSame([['shape-1', 'cylinder'], ['shape-2', 'cylinder']], array_map(fn (array $one) => [$one['id'], $one['kind']], array_slice($list, 0, 2)));
        self::assertEqualsWithDelta(['point' => [0.0, 0.0, 14.5], 'axis' => [0.0, 0.0, 1.0], 'diameter' => 30.0], array_map(fn (mixed $v) => is_array($v) ? array_map(abs(...), $v) : $v, $list[0]['parameters']), 1e-6);
        self::assertEqualsWithDelta(M_PI * 30.0 * 15.0, $list[0]['area'], 1.0);

        $moved = self::report($found->moved(RigidTransform::shift(100.0, 0.0, 0.0))->scaled(2.0), 10.0);
        self::assertEqualsWithDelta([20.0, 0.0, 2.9], $moved[0]['parameters']['point'], 1e-6, 'in centimetres');
        self::assertEqualsWithDelta([6.0, 4.0 * $list[0]['area'] / 100.0], [$moved[0]['parameters']['diameter'], $moved[0]['area']], 1e-6);

        // Found again they take the place of those before, with numbers of their own where another body has some.
        $again = self::step($found, 'find-shapes');
        self::assertSame([$found->artefacts[0]->id, 'shape-1'], [$again->artefacts[0]->id, self::report($again)[0]['id']]);
        $two = self::step(new Workpiece(bodies: [...$found->bodies, Body::of('Ball', MeshBuilder::icosphere(4, 5.0))]), 'find-shapes');
        self::assertSame(['shape-1', 'shape-5'], array_map(fn ($artefact) => $artefact->data['shapes'][0]['id'], $two->artefacts));
    }

    #[Test]
    public function a_shape_becomes_a_datum_as_sure_as_its_fit(): void
    {
        $found = self::step(self::bush(), 'find-shapes');
        $bore = self::step($found, 'add-datum', ['name' => 'Bore', 'shape' => ['find' => 'found', 'id' => 'shape-2']])->datums[0];
        self::assertSame(['cylinder', 'Bush'], [$bore->kind, $bore->bodyId]);
        self::assertEqualsWithDelta([10.0, 7.5], [$bore->radius, $bore->size], 0.1);
        self::assertGreaterThan(100, $bore->points);
        self::assertRefused([[fn () => self::step($found, 'add-datum', ['name' => 'x', 'shape' => ['find' => 'found', 'id' => 'shape-9']]), 'which no body has']]);
        self::assertRefused([[fn () => self::step(self::bush(), 'add-datum', ['name' => 'x', 'shape' => ['find' => 'found', 'id' => 'shape-1']]), 'no shapes were found yet']]);
        self::assertRefused([[fn () => self::step($found, 'add-datum', ['name' => 'x', 'shape' => ['find' => 'found']]), 'needs an "id"']]);
    }

    #[Test]
    public function shapes_are_measured_and_set_a_frame_by_their_ids(): void
    {
        $moved = self::bush()->moved(RigidTransform::turn([0.3, 1.0, 0.2], 0.8)->then(RigidTransform::shift(40.0, -3.0, 9.0)));
        $found = self::step($moved, 'find-shapes');
        $ends = array_values(array_map(fn (array $one) => $one['id'], array_filter(self::report($found), fn (array $one) => $one['kind'] === 'plane')));
        $value = fn (array $parameters): float => Catalogue::operation('measure')($found, Catalogue::parameters('measure', $parameters), new NoProgress)->after['measurements'][0]['value'];
        self::assertEqualsWithDelta(30.0, $value(['kind' => 'diameter', 'of' => ['shape-1']]), 1e-6);
        self::assertEqualsWithDelta(15.0, $value(['kind' => 'distance', 'of' => $ends]), 1e-6);
        $framed = self::step($found, 'set-frame', ['first' => 'shape-1']);
        $list = self::report($framed);
        self::assertEqualsWithDelta([0.0, 0.0, 1.0], array_map(abs(...), $list[0]['parameters']['axis']), 1e-6, 'the axis of the wall is an axis of the frame');
        self::assertRefused([[fn () => self::step($found, 'set-frame', ['first' => 'shape-9']), 'cannot find "shape-9"']]);
    }

    #[Test]
    public function what_was_parted_is_joined_and_what_was_joined_is_split_and_all_else_stays(): void
    {
        $found = self::step(self::bush(), 'find-shapes');
        $map = ShapeMap::ofArtefact($found->artefacts[0]);
        $wall = array_keys($map->labels, 0, true);
        $half = array_map(fn (int $t) => [$t, $t], array_slice($wall, 0, intdiv(count($wall), 2)));
        $split = self::step($found, 'split-shape', ['shapes' => ['shape-1'], 'selection' => [['target' => 'Bush', 'ranges' => $half]]]);
        $list = array_column(self::report($split), null, 'id');
        self::assertCount(5, $list);
        foreach (['shape-1', 'shape-5'] as $id) {
            self::assertSame('cylinder', $list[$id]['kind']);
            self::assertEqualsWithDelta(30.0, $list[$id]['parameters']['diameter'], 1e-6);
        }
        self::assertSame($map->entryOf('shape-2'), ShapeMap::ofArtefact($split->artefacts[0])->entryOf('shape-2'));

        $joined = self::step($split, 'join-shapes', ['shapes' => ['shape-1', 'shape-5']]);
        self::assertSame($map->labels, ShapeMap::ofArtefact($joined->artefacts[0])->labels);
        self::assertEqualsWithDelta(array_column($map->entries, 'area', 'id'), array_column(self::report($joined), 'area', 'id'), 1e-6);

        // A wall and an end are turned about one axis; two sides of a box are nothing together.
        self::assertSame('revolved', self::report(self::step($found, 'join-shapes', ['shapes' => ['shape-1', 'shape-3']]))[0]['kind']);
        $box = self::step(new Workpiece(bodies: [Body::of('Box', SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [9.0, 8.0, 7.0]))]), 'find-shapes');
        self::assertRefused([[fn () => self::step($box, 'join-shapes', ['shapes' => ['shape-1', 'shape-3']]), 'lie on no one shape']]);
        self::assertRefused([[fn () => self::step($found, 'split-shape', ['shapes' => ['shape-1']]), 'hangs together in one piece']]);
        self::assertRefused([[fn () => self::step($found, 'split-shape', ['shapes' => ['shape-1'], 'selection' => [['target' => 'Bush', 'ranges' => array_map(fn (int $t) => [$t, $t], $wall)]]]), 'All of a shape is selected']]);
        $changed = $found->withBodies([Body::of('Bush', MeshBuilder::icosphere(2, 5.0))]);
        self::assertRefused([[fn () => self::step($changed, 'join-shapes', ['shapes' => ['shape-1', 'shape-2']]), 'has changed since its shapes were found']]);
    }

    #[Test]
    public function coplanar_lugs_are_one_plane_until_they_are_split_piece_by_piece(): void
    {
        $lug = fn (float $x): TriangleMesh => SimpleSolid::box([$x, 0.0, 0.0], [0.0, 0.0, 1.0], [10.0, 8.0, 5.0]);
        $found = self::step(new Workpiece(bodies: [Body::of('Lugs', TriangleMesh::joined([$lug(0.0), $lug(40.0)]))]), 'find-shapes');
        $list = ShapeMap::ofArtefact($found->artefacts[0])->report('Lugs', 1.0);
        // Top, bottom, front and back are each one; the four ends are four.
        self::assertCount(8, $list);
        $split = self::step($found, 'split-shape', ['shapes' => ['shape-1']]);
        self::assertEqualsWithDelta([80.0, 80.0], array_values(array_map(fn (array $one) => $one['area'], array_filter(ShapeMap::ofArtefact($split->artefacts[0])->report('Lugs', 1.0), fn (array $one) => in_array($one['id'], ['shape-1', 'shape-9'], true)))), 1e-9);
    }

    #[Test]
    public function made_up_surface_tells_no_shape_but_goes_along(): void
    {
        $ball = MeshBuilder::icosphere(4, 10.0);
        $marks = [];
        for ($t = 0, $n = $ball->faceCount(); $t < $n; $t++) {
            $z = ($ball->positions[3 * $ball->faces[3 * $t] + 2] + $ball->positions[3 * $ball->faces[3 * $t + 1] + 2] + $ball->positions[3 * $ball->faces[3 * $t + 2] + 2]) / 3.0;
            $marks[] = $z > 6.0 ? TriangleMesh::FILLED : TriangleMesh::MEASURED;
        }
        $half = TriangleMesh::fromFlat($ball->positions, $ball->faces, [], $marks);
        $found = self::step(new Workpiece(bodies: [Body::of('Ball', $half)]), 'find-shapes');
        $list = ShapeMap::ofArtefact($found->artefacts[0])->report('Ball', 1.0);
        self::assertSame(['sphere'], array_column($list, 'kind'));
        self::assertSame($n, $list[0]['faces']);
        $none = TriangleMesh::fromFlat($ball->positions, $ball->faces, [], array_fill(0, $n, TriangleMesh::FILLED));
        self::assertSame(['free'], array_column(ShapeMap::ofArtefact(self::step(new Workpiece(bodies: [Body::of('Ball', $none)]), 'find-shapes')->artefacts[0])->report('Ball', 1.0), 'kind'));
    }

    #[Test]
    public function nothing_to_look_at_and_kinds_that_are_none_are_refused(): void
    {
        self::assertRefused([[fn () => self::step(new Workpiece, 'find-shapes'), 'no mesh to find shapes on']]);
        self::assertRefused([[fn () => self::step(new Workpiece(bodies: [Body::of('None', TriangleMesh::empty())]), 'find-shapes'), 'No body has any surface']]);
        self::assertRefused([[fn () => self::step(self::bush(), 'find-shapes', ['kinds' => ['box']]), 'it may hold plane, cylinder']]);
        self::assertRefused([[fn () => self::step(self::bush(), 'find-shapes', ['kinds' => []]), 'is empty']]);
        self::assertRefused([[fn () => self::step(self::bush(), 'join-shapes', ['shapes' => ['shape-1', 'shape-1']]), 'needs two shapes']]);
    }
}
