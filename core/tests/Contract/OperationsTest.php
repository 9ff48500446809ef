<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Contract;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\RecordingProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\ParamSpec;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Recipe\Step;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OperationExamples;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** What every operation promises, whatever it does. */
final class OperationsTest extends TestCase
{
    /** @var array<string, array{Workpiece, string, Result, RecordingProgress}> by operation: what it was tried on, that before it ran, and what came of it */
    private static array $runs = [];

    /** @return array{Workpiece, string, Result, RecordingProgress} one run of an operation, which several tests look at */
    private static function ran(string $name): array
    {
        if (! isset(self::$runs[$name])) {
            $workpiece = OperationExamples::workpiece($name);
            $before = serialize($workpiece);
            $progress = new RecordingProgress;
            $result = Catalogue::operation($name)($workpiece, Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]), $progress);
            self::$runs[$name] = [$workpiece, $before, $result, $progress];
        }

        return self::$runs[$name];
    }

    /** @return iterable<string, array{string}> but those that may begin with nothing: a datum can be typed, a scan needs no data */
    public static function operationsOnSomething(): iterable
    {
        foreach (Catalogue::names() as $name) {
            if ($name !== 'add-datum' && Catalogue::operation($name)::about()->needs !== 'nothing') {
                yield $name => [$name];
            }
        }
    }

    /** @return iterable<string, array{string}> */
    public static function operations(): iterable
    {
        foreach (Catalogue::names() as $name) {
            yield $name => [$name];
        }
    }

    #[Test]
    public function every_operation_of_the_catalogue_is_tried_here(): void
    {
        self::assertEqualsCanonicalizing(Catalogue::names(), array_keys(OperationExamples::PARAMETERS));
    }

    #[Test]
    #[DataProvider('operations')]
    public function the_input_stays_as_it_was_and_the_result_says_what_changed(string $name): void
    {
        [$workpiece, $before, $result] = self::ran($name);
        self::assertSame($before, serialize($workpiece));
        self::assertNotSame('', $result->headline);
        if (Catalogue::operation($name)::about()->looksOnly) {
            self::assertSame($before, serialize($result->workpiece), 'it looks only');
        } elseif ($name !== 'match' && ! isset($result->after['measurements']) && $result->scaleError === null) {
            // Passes that fit as captured are not matched; what is measured or confirmed stays as it is.
            self::assertNotSame($before, serialize($result->workpiece), 'it did nothing');
        }
        self::assertSame(Outcome::Reached, $result->outcome);
        // Or nothing from before it could be compared with what is there after it.
        self::assertSame(Catalogue::operation($name)::about()->together, $result->everything !== null, 'what works on all together says how all of it moved, if only that it did not');
        foreach ($workpiece->passes as $k => $was) {
            $pass = $result->workpiece->passes[$k];
            self::assertSame($was->id, $pass->id);
            self::assertSame($workpiece->passes[$k]->cloud(), $pass->cloud(), 'the points of a pass never change');
        }
    }

    #[Test]
    #[DataProvider('operations')]
    public function twice_the_same_gives_the_same_to_the_last_bit(string $name): void
    {
        $once = self::ran($name)[2];
        $again = Catalogue::operation($name)(OperationExamples::workpiece($name), Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]), new NoProgress);
        self::assertSame(serialize($once->workpiece), serialize($again->workpiece));
    }

    #[Test]
    #[DataProvider('operations')]
    public function a_step_works_on_what_it_is_told_and_leaves_all_else_alone(string $name): void
    {
        $needs = Catalogue::operation($name)::about()->needs;
        $some = OperationExamples::workpiece($name);
        $parameters = OperationExamples::PARAMETERS[$name];
        $suits = array_map(fn (Pass|Body $one) => $one->name, [...($needs === 'meshes' || $needs === 'bodies' ? [] : $some->passes), ...($needs === 'passes' ? [] : $some->bodies)]);
        if ($needs === 'nothing') {
            $this->expectExceptionMessage('works on no pass and no body');
        }
        // Others stand before and behind, with one datum that belongs to one of them.
        $far = RigidTransform::shift(300.0, 0.0, 0.0);
        $otherPass = (new Pass('other pass', 'other pass', isset($some->passes[0]) ? $some->passes[0]->cloud() : PointCloud::fromFlat([0.0, 0.0, 0.0]), $far));
        $otherBody = Body::of('other body', MeshBuilder::icosphere(2, 5.0))->moved($far);
        $datum = new Datum('of the other', 'Of the other', 'point', [300.0, 0.0, 0.0], bodyId: 'other body');
        $all = new Workpiece([$otherPass, ...$some->passes], [$otherBody, ...$some->bodies], [...$some->datums, $datum], $some->artefacts);
        $step = Step::of($name, ['on' => $parameters['on'] ?? $suits] + $parameters);
        $result = $step($all, new NoProgress)->workpiece;
        self::assertSame($otherPass, $result->passes[0]);
        self::assertSame($otherBody, $result->bodies[0]);
        self::assertContainsEquals($datum, $result->datums);
        $alone = self::ran($name)[2]->workpiece;
        self::assertSame(serialize($alone->passes), serialize(array_slice($result->passes, 1)));
        if (! isset($parameters['on'])) {
            // A mesh operation sees no passes where it is told of a body alone.
            self::assertSame(serialize($alone->bodies), serialize(array_slice($result->bodies, 1)));
        }
    }

    #[Test]
    #[DataProvider('operations')]
    public function progress_never_falls_and_ends_within_the_whole(string $name): void
    {
        $progress = self::ran($name)[3];
        $sorted = $progress->fractions;
        sort($sorted);
        self::assertSame($sorted, $progress->fractions);
        self::assertLessThanOrEqual(1.0, max([0.0, ...$progress->fractions]));
        self::assertGreaterThanOrEqual(0.0, min([1.0, ...$progress->fractions]));
    }

    #[Test]
    #[DataProvider('operations')]
    public function whatever_reports_progress_can_be_stopped_at_any_report(string $name): void
    {
        $all = self::ran($name)[3];
        $parameters = Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]);
        $stops = 0;
        foreach (array_unique([0.0, ...array_slice($all->fractions, -1)]) as $at) {
            try {
                Catalogue::operation($name)(OperationExamples::workpiece($name), $parameters, new RecordingProgress($at));
            } catch (OperationCancelled) {
                $stops++;
            }
        }
        self::assertSame($all->fractions === [] ? 0 : count(array_unique([0.0, ...array_slice($all->fractions, -1)])), $stops);
    }

    #[Test]
    #[DataProvider('operations')]
    public function an_estimate_of_time_and_memory_is_there_before_anything_runs(string $name): void
    {
        $estimate = Catalogue::operation($name)->estimate(OperationExamples::workpiece($name), Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]));
        self::assertGreaterThan(0.0, $estimate->seconds);
        self::assertGreaterThan(0.0, $estimate->memoryMb);
        self::assertLessThan(60.0, $estimate->seconds, 'for so little');
    }

    #[Test]
    #[DataProvider('operationsOnSomething')]
    public function an_empty_workpiece_is_refused_in_words(string $name): void
    {
        $this->expectException(EmberstoneException::class);
        $this->expectExceptionMessageMatches('/(\S+ ){4}/');
        Catalogue::operation($name)(new Workpiece, Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]), new NoProgress);
    }

    #[Test]
    #[DataProvider('operations')]
    public function unknown_missing_mistyped_and_excessive_values_are_refused_by_name(string $name): void
    {
        $tries = [['surprise' => 1, ...OperationExamples::PARAMETERS[$name]]];
        foreach (ParamSpec::ofClass(Catalogue::operation($name)::about()->parameters) as $spec) {
            $tries[$spec->name] = [$spec->name => new \stdClass] + OperationExamples::PARAMETERS[$name];
            if ($spec->required) {
                $tries["no $spec->name"] = array_diff_key(OperationExamples::PARAMETERS[$name], [$spec->name => true]);
            }
            if ($spec->param->max !== null) {
                $tries["huge $spec->name"] = [$spec->name => 1e12] + OperationExamples::PARAMETERS[$name];
            }
            if (($spec->param->min !== null || $spec->param->positive) && $spec->type !== 'array') {
                $tries["tiny $spec->name"] = [$spec->name => -1e12] + OperationExamples::PARAMETERS[$name];
            }
        }
        foreach ($tries as $try => $values) {
            try {
                Catalogue::parameters($name, $values);
                self::fail("$name took $try");
            } catch (InvalidParameter $problem) {
                self::assertStringContainsString(is_string($try) ? str_replace(['no ', 'huge ', 'tiny '], '', $try) : 'surprise', $problem->getMessage());
            }
        }
    }

    #[Test]
    public function meshes_come_out_of_every_mesh_operation_with_marks_for_each_face_and_vertex(): void
    {
        $ball = MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 9.0);
        $ball = TriangleMesh::fromFlat($ball->positions, $ball->faces, array_fill(0, $ball->vertexCount(), 4), array_fill(0, $ball->faceCount(), TriangleMesh::MEASURED));
        foreach (['repair', 'fill-holes', 'keep-pieces', 'smooth', 'decimate', 'scale'] as $name) {
            $result = Catalogue::operation($name)(new Workpiece([], [Body::of('ball', $ball)]), Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]), new NoProgress);
            $mesh = $result->workpiece->bodies[0]->geometry;
            self::assertInstanceOf(TriangleMesh::class, $mesh);
            self::assertCount($mesh->vertexCount(), $mesh->support, $name);
            self::assertCount($mesh->faceCount(), $mesh->origin, $name);
            self::assertSame(4, max($mesh->support), $name);
        }
    }

    #[Test]
    public function a_cloud_where_a_mesh_is_needed_is_refused_with_the_way_out(): void
    {
        foreach (['fill-holes', 'decimate', 'smooth', 'repair', 'keep-pieces'] as $name) {
            try {
                Catalogue::operation($name)(new Workpiece([], [Body::of('cloud', PointCloud::fromFlat([0.0, 0.0, 0.0, 1.0, 1.0, 1.0]))]), Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]), new NoProgress);
                self::fail("$name took a cloud");
            } catch (EmberstoneException $problem) {
                self::assertStringContainsString('fuse the passes first', $problem->getMessage());
            }
        }
    }
}
