<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Surface\Sampling;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Datums\DatumPairs;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Coarse\RoughPlacing;

/**
 * Places a body or pass on another, and keeps both apart: the parts of an assembly, each scanned well on its own, come into the coordinates of a
 * rough scan of all of them together.
 *
 * @implements Operation<PlaceParameters>
 */
final class Place implements Operation
{
    /** Points that stand for a mesh. */
    private const SAMPLES = 40_000;

    /** Without a share like this on the other, a place means nothing. */
    private const LEAST_OVERLAP = 0.1;

    public static function about(): About
    {
        return new About('place', Stage::Register, 'Place', 'Places a body on another and keeps both apart: parts of an assembly on a rough scan of the whole.', 'any', PlaceParameters::class, avoid: 'Not for passes of one part: register those.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate($parameters->start === 'shape' ? 8.0 : 3.0, 250);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $moving = $workpiece->named('moving', $parameters->moving);
        $onto = $workpiece->named('onto', $parameters->onto);
        $group = [$moving->id, ...array_map(fn (string $name) => $workpiece->named('with', $name)->id, $parameters->with)];
        $this->refuseLocked($workpiece, $group, $parameters->locked);
        if (in_array($onto->id, $group, true)) {
            throw InvalidParameter::of('with', "holds {$onto->name}, which stays where it is");
        }
        $by = RigidTransform::identity();
        $figures = [];
        $notes = [];
        $outcome = Outcome::Reached;
        if ($parameters->start === 'pairs') {
            ['by' => $by, 'residuals' => $residuals] = PairPoints::solve($parameters->pairs);
            $figures['pairs'] = array_map(fn (float $r) => round($r, 4), $residuals);
        }
        if ($parameters->start === 'datums') {
            if ($parameters->datums === []) {
                throw InvalidParameter::of('datums', 'is empty; choose a datum of what moves and one that it comes to lie on');
            }
            $laid = DatumPairs::solve(array_values($parameters->datums), $workpiece->datums, $moving->id, $moving->name);
            $by = $laid->by;
            $figures['datums'] = $laid->figures;
            $notes = $laid->free === 0 ? [] : ["The datums leave {$laid->free} of six freedoms open; ".($parameters->tighten ? 'their middles were laid on each other there, and best fit did the rest.' : 'their middles were laid on each other there.')];
        }
        if ($parameters->start === 'shape' || $parameters->tighten) {
            $local = LocalPasses::of([self::asPass($onto), self::asPass($moving)->moved($by)]);
            $prepared = Prepare::all($local->passes, new PartProgress($progress, 0.0, 0.3));
            $spacing = max($prepared[0]->spacing, $prepared[1]->spacing);
            $reach = $parameters->maxDistance ?? 10.0 * $spacing;
            if ($parameters->start === 'shape') {
                $notes = $doubts = (new RoughPlacing(new Icp($prepared, $reach, 2.5 * $spacing), $prepared, $spacing, $reach))->place([0], new PartProgress($progress, 0.3, 0.8));
                $outcome = $doubts === [] ? $outcome : Outcome::NotConverged;
            }
            $fit = new Icp($prepared, $reach, min($reach, 1.5 * $spacing));
            if ($parameters->tighten) {
                $fit->onto([1], [0], 1);
            }
            $progress->advance('best fit', 0.95);
            $by = $local->pose(1, $prepared[1]->transform);
            $there = $fit->lies(1, 0, 2.5 * $spacing, 1);
            $overlap = $there['near'] / max(1, $prepared[1]->sampleCount());
            if ($overlap < self::LEAST_OVERLAP) {
                throw UnsuitableInput::because("{$moving->name} does not lie on {$onto->name}: only ".round(100 * $overlap).' % of it does. Pick pairs to bring it near, or check that both show the same part in the same unit.');
            }
            $figures += ['overlap' => round($overlap, 4), 'residual' => round($there['scale'], 5)];
        }
        $progress->advance('placed', 1.0);

        return new Result(
            $workpiece->movedOnly($group, $by),
            "$moving->name on $onto->name".(isset($figures['residual']) ? ', residual '.Format::mm($figures['residual']) : ''),
            [], $figures + ['transform' => $by->matrix], $notes, $outcome,
        );
    }

    /**
     * @param  list<string>  $group  ids
     * @param  array<int, string>  $locked
     */
    private function refuseLocked(Workpiece $workpiece, array $group, array $locked): void
    {
        foreach ($locked as $name) {
            $one = $workpiece->named('locked', $name);
            if (in_array($one->id, $group, true)) {
                throw UnsuitableInput::because("{$one->name} is locked and does not move; unlock it first.");
            }
        }
    }

    /** What stands for it while places are looked for: points on its surface with normals, in project coordinates. */
    private static function asPass(Pass|Body $one): Pass
    {
        $placed = $one->placed();
        if ($placed instanceof PointCloud) {
            return Pass::of($one->name, $placed);
        }
        if ($placed->faces === []) {
            throw UnsuitableInput::because("{$one->name} has no faces to place it by.");
        }
        ['points' => $points, 'normals' => $normals] = Sampling::evenly($placed->positions, $placed->faces, self::SAMPLES);

        return Pass::of($one->name, PointCloud::fromFlat($points, $normals));
    }
}
