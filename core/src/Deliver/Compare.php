<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\PseudoNormals;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\Comparison;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\LooksBack;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\ShadeMap;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * How far bodies lie off the raw points of the passes, off another body, off the shapes that were found on them, or off what they were earlier. Changes nothing.
 *
 * Measured  with passes, from the surface of the body to every point that is kept: more than 0 where the point lies outside the body. With another body, from that one's surface to places spread evenly
 *           over the body: more than 0 where the body lies outside the other.
 * Output    figures (see Measure\Comparison), and a map of the body's vertices.
 *
 * @implements Operation<CompareParameters>
 */
final class Compare implements LooksBack, Operation
{
    /** Places on a body that is compared with another: of 50,000 the RMS is right to a few thousandths. */
    private const SAMPLES = 50_000;

    /** Points looked up at once, so that a stop is heard. */
    private const PORTION = 20_000;

    /** Points from which on several processes are faster than one. */
    private const WORTH_FORKING = 200_000;

    /** Shares of the work that each process gets one after the other, so that none ends long after the others. */
    private const TURNS = 4;

    /** Points of the passes that are compared, at most; of more every second, third, ... : shares and means are right to a thousandth of themselves long before. */
    private const MOST_POINTS = 2_000_000;

    public static function about(): About
    {
        return new About('compare', Stage::Deliver, 'Compare', 'Measures how far a body lies off its raw passes, another body, the shapes found on it, or itself as it was earlier, and shows where. Changes nothing.', 'meshes', CompareParameters::class, looksOnly: true, readsArtefacts: true, avoid: 'Not against passes that were changed after fusing: it then tells the change.');
    }

    public static function looksBackAt(object $parameters): ?string
    {
        assert($parameters instanceof CompareParameters);

        return $parameters->to === CompareParameters::EARLIER ? $parameters->revision : null;
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $points = $parameters->to === CompareParameters::PASSES ? min(self::MOST_POINTS, $workpiece->pointCount()) : self::SAMPLES;

        return new Estimate(0.3 + 3e-6 * $points + 4e-6 * $workpiece->faceCount(), 60 + 2.5e-4 * $points + 4e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        if ($workpiece->meshes() === []) {
            throw UnsuitableInput::because('There is no mesh to compare: fuse the passes first, or bring in a mesh.');
        }
        $other = in_array($parameters->to, [CompareParameters::PASSES, CompareParameters::SHAPES, CompareParameters::EARLIER], true) ? null : $workpiece->named('to', $parameters->to);
        if ($other !== null && ! ($other instanceof Body && $other->isMesh())) {
            throw InvalidParameter::of('to', "names \"$other->name\", which is no mesh; name a mesh, passes, or shapes");
        }
        $bodies = self::looked($workpiece, $parameters, $other);
        $every = max(1, (int) ceil(array_sum(array_map(fn (Pass $pass) => $pass->keptCount(), $workpiece->passes)) / self::MOST_POINTS));
        $points = $parameters->to === CompareParameters::PASSES ? self::points($workpiece, $every) : [];
        $comparisons = $maps = [];
        $notes = $parameters->to === CompareParameters::PASSES && $every > 1 ? [sprintf('The passes hold many points: one of every %d was compared.', $every)] : [];
        foreach ($bodies as $k => $body) {
            $part = new PartProgress($progress, $k / count($bodies), ($k + 1) / count($bodies));
            $mesh = $body->placedMesh();
            $fitted = null;
            $surface = $parameters->to === CompareParameters::EARLIER ? self::earlier($workpiece, $body) : $other;
            [$distances, $at, $values] = match (true) {
                $surface !== null => self::withSurface($body, $mesh, $surface, $workpiece->datums, $parameters, $fitted, $part),
                $parameters->to === CompareParameters::SHAPES => ShapeTruth::of($body, $mesh, $workpiece->artefacts)->distances(self::SAMPLES, $parameters->signed),
                default => self::withPoints($body, $mesh, $points, $parameters, $fitted, $part),
            };
            $figures = Comparison::of($distances, $at, BoundingBox::of($mesh->positions)->diagonal(), $parameters->tolerance);
            $comparisons[] = ['body' => $body->name, 'to' => $other->name ?? $parameters->to, ...($parameters->to === CompareParameters::EARLIER ? ['revision' => $parameters->revision] : []), 'tolerance' => $parameters->tolerance, 'signed' => $parameters->signed] + $figures + ($fitted === null ? [] : ['fitted' => ['shiftMm' => self::shiftAt($fitted, $mesh), 'turnDeg' => $fitted->angleDeg()]]);
            if ($fitted !== null) {
                $notes[] = sprintf('%s: fitted onto it first, by a shift of %s and a turn of %.3f°.', $body->name, Format::mm(self::shiftAt($fitted, $mesh)), $fitted->angleDeg());
            }
            $reach = $figures['histogram']['to'];
            $maps[] = ShadeMap::of($body->id, 'Distance', 'mm', $values, $parameters->signed ? -$reach : 0.0, $reach, $parameters->tolerance);
        }
        $first = $comparisons[0];

        return new Result(
            $workpiece,
            sprintf('%s: RMS %s, 95 %% within %s%s', $first['body'], Format::mm($first['rms']), Format::mm($first['p95']), $first['within'] === null ? '' : sprintf(', %.1f %% in tolerance', 100.0 * $first['within'])),
            [], ['rms' => $first['rms'], 'mean' => $first['mean'], 'p95' => $first['p95'], 'max' => $first['max'], 'within' => $first['within'], 'comparisons' => $comparisons],
            [self::measured($parameters, $other), ...$notes],
            maps: $maps,
        );
    }

    /** From where to where distances are measured, and what more than 0 is. */
    private static function measured(CompareParameters $parameters, ?Body $other): string
    {
        [$from, $more] = match (true) {
            $other !== null => ["from the surface of $other->name to places on the body", "the body lies outside $other->name"],
            $parameters->to === CompareParameters::EARLIER => ['from the surface as it was to places on the body as it is', 'the body has grown there'],
            $parameters->to === CompareParameters::SHAPES => ['from the shape of each face to places on it; free form is left out', 'the body lies outside its shape'],
            default => ['from the surface of the body to the points of the passes', 'the point lies outside the body'],
        };

        return "Measured $from".($parameters->signed ? "; more than 0: $more." : '.');
    }

    /** @return non-empty-list<Body> */
    private static function looked(Workpiece $workpiece, CompareParameters $parameters, ?Body $other): array
    {
        $bodies = [];
        foreach ($parameters->on === null ? $workpiece->meshes() : array_merge(...array_map(fn (string $name) => $workpiece->called($name), $parameters->on)) as $body) {
            if (! $body instanceof Body || ! $body->isMesh()) {
                throw InvalidParameter::of('on', "names \"$body->name\", which is no mesh; compare works on meshes");
            }
            if ($body->id !== $other?->id) {
                $bodies[] = $body;
            }
        }

        return $bodies !== [] ? $bodies : throw UnsuitableInput::because('A body is not compared with itself; choose another.');
    }

    /** The body as it was after the step that was asked for. */
    private static function earlier(Workpiece $workpiece, Body $body): Body
    {
        foreach ($workpiece->earlier as $was) {
            if ($was->id === $body->id) {
                return $was->isMesh() ? $was : throw UnsuitableInput::because("$body->name was no mesh then; choose a later step.");
            }
        }
        throw UnsuitableInput::because("$body->name was not there yet after that step; choose a later one.");
    }

    /**
     * @param  int  $every  of how many points one is taken
     * @return list<float> flat xyz of kept points, in project coordinates
     */
    private static function points(Workpiece $workpiece, int $every): array
    {
        $points = [];
        foreach ($workpiece->passes as $pass) {
            foreach ($every === 1 ? $pass->placed()->positions : $pass->sample($every) as $value) {
                $points[] = $value;
            }
        }

        return $points !== [] ? $points : throw UnsuitableInput::because('There are no passes to compare with; name a body instead.');
    }

    /** How far a motion shifts the middle of a mesh, mm. */
    private static function shiftAt(RigidTransform $motion, TriangleMesh $mesh): float
    {
        $box = BoundingBox::of($mesh->positions);
        $middle = Vector3::scaled(Vector3::plus($box->min, $box->max), 0.5);

        return Vector3::length(Vector3::minus($motion->point($middle), $middle));
    }

    /**
     * @param  list<float>  $points
     * @param  RigidTransform|null  $fitted  (changed) the motion of the points, where they were fitted first
     * @return array{non-empty-list<float>, list<float>, list<float|null>} distances, where they were measured, and the mean around each vertex; null where no point came near it
     */
    private static function withPoints(Body $body, TriangleMesh $mesh, array $points, CompareParameters $parameters, ?RigidTransform &$fitted, Progress $progress): array
    {
        if ($parameters->bestFit) {
            $fitted = ComparisonFit::ofPoints($points, $body, $mesh, $parameters);
            $points = $fitted->points($points);
        }
        [$distances, $face] = self::distances($mesh, $points, $parameters->signed, $progress);
        $sum = $count = array_fill(0, $mesh->vertexCount(), 0.0);
        foreach ($face as $i => $t) {
            for ($c = 0; $c < 3; $c++) {
                $sum[$mesh->faces[3 * $t + $c]] += $distances[$i];
                $count[$mesh->faces[3 * $t + $c]]++;
            }
        }

        return [$distances, $points, array_map(fn (float $all, float $many) => $many > 0.0 ? $all / $many : null, $sum, $count)];
    }

    /**
     * The same with another body, which is what moves when it is fitted first.
     *
     * @param  list<Datum>  $datums
     * @return array{non-empty-list<float>, list<float>, list<float>}
     */
    private static function withSurface(Body $body, TriangleMesh $mesh, Body $other, array $datums, CompareParameters $parameters, ?RigidTransform &$fitted, Progress $progress): array
    {
        $surface = $other->placed();
        assert($surface instanceof TriangleMesh);
        if ($surface->faces === [] || $mesh->faces === []) {
            throw UnsuitableInput::because("$other->name or what is compared with it has no faces.");
        }
        $points = SurfaceDistance::onSurface($mesh, self::SAMPLES);
        if ($parameters->bestFit) {
            $fitted = ComparisonFit::ofSurface($points, $body, $mesh, $other, $surface, $parameters, $datums);
            $surface = $surface->transformed($fitted);
        }
        [$distances] = self::distances($surface, $points, $parameters->signed, new PartProgress($progress, 0.0, 0.6));
        [$values] = self::distances($surface, $mesh->positions, $parameters->signed, new PartProgress($progress, 0.6, 1.0));

        return [$distances, $points, $values];
    }

    /**
     * @param  array<int, float>  $points
     * @return array{non-empty-list<float>, list<int>} the distance of each point from a surface, and the nearest face
     */
    private static function distances(TriangleMesh $surface, array $points, bool $signed, Progress $progress): array
    {
        $tree = TriangleBvh::of($surface->positions, $surface->faces);
        $normals = $signed ? PseudoNormals::of($surface->positions, $surface->faces) : null;
        $tasks = [];
        for ($o = 0, $n = count($points); $o < $n; $o += 3 * self::PORTION) {
            $tasks[] = function () use ($tree, $normals, $points, $o): string {
                $some = array_slice($points, $o, 3 * self::PORTION);
                $face = $distanceSq = [];
                $tree->closest($some, $face, $distanceSq);
                $distances = array_map(sqrt(...), $distanceSq);
                foreach ($normals?->sidesOf($some, $face) ?? [] as $i => $side) {
                    $distances[$i] *= $side;
                }

                return Packed::doubles($distances).Packed::ints($face);
            };
        }
        $cores = count($points) < 3 * self::WORTH_FORKING ? 1 : Cores::count();
        $distances = $faces = [];
        foreach (Fork::map($tasks, $cores, new PartProgress($progress, 0.0, 0.9), 'comparing', max(1, intdiv(count($tasks), self::TURNS * $cores))) as $answer) {
            $many = intdiv(strlen($answer), 12);
            foreach (Packed::toDoubles(substr($answer, 0, 8 * $many)) as $distance) {
                $distances[] = $distance;
            }
            foreach (Packed::toInts(substr($answer, 8 * $many)) as $face) {
                $faces[] = $face;
            }
        }
        $progress->advance('comparing', 1.0);

        return $distances !== [] ? [$distances, $faces] : throw UnsuitableInput::because('There are no points to compare.');
    }
}
