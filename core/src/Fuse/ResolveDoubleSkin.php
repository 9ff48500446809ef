<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Cloud\IncidenceAngle;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Registration;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Sieve;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Where passes lie over each other in two layers, each place keeps the points of the pass that saw it best: steeply, and from near; or the passes
 * are moved onto each other from where they stand. Passes that agree within their noise keep everything, unless what others saw much better
 * is to go there too.
 *
 * @implements Operation<ResolveDoubleSkinParameters>
 */
final class ResolveDoubleSkin implements Operation
{
    /** Standard deviations of the noise of both that a gap must be wide to be one. */
    private const APART = 4.0;

    /** Factor: of two points that agree, one goes where the other was seen that much better, for the mean of both would gain little by it. */
    private const CLEARLY = 2.0;

    /** Layers face the same way: cosine between their normals. The far side of a thin wall faces the other way. */
    private const SAME_WAY = 0.7;

    /** Spacings that layers lie aside at most: they lie over, not beside each other. */
    private const ASIDE = 1.5;

    private const NEIGHBOURS = 16;

    /** @param  Registration  $registration  what moves passes onto each other */
    public function __construct(private readonly Registration $registration)
    {
    }

    public static function about(): About
    {
        return new About('resolve-double-skin', Stage::Fuse, 'Resolve double skins', 'Where passes lie in two layers, keeps the points of the pass that saw the place best, or moves the passes onto each other. Raw points stay in the pass.', 'passes', ResolveDoubleSkinParameters::class, avoid: 'Not where two layers are two sides of a thin wall.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.3 + 2e-5 * $workpiece->pointCount() + 2e-6 * $workpiece->pointCount() * count($workpiece->passes), 60 + 6e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        if (count($workpiece->passes) < 2) {
            throw UnsuitableInput::because('Two layers come from two passes; bring in another.');
        }
        $gap = $parameters->gap ?? ResolveDoubleSkinParameters::suggestGap($workpiece) ?? 1.0;

        return $parameters->by === 'moving' ? $this->moved($workpiece, $gap, $parameters->locked, $progress) : self::dropped($workpiece, $gap, $parameters->agreeing, $progress);
    }

    private static function dropped(Workpiece $workpiece, float $gap, bool $agreeing, Progress $progress): Result
    {
        $layers = [];
        $looking = new PartProgress($progress, 0.0, 0.5);
        foreach ($workpiece->passes as $k => $pass) {
            $looking->advance('surfaces', $k / count($workpiece->passes));
            $layers[] = self::layer($pass->placed());
        }
        $notes = [];
        foreach ($workpiece->passes as $k => $pass) {
            if (! $pass->source->hasSensor) {
                $notes[] = "{$pass->name} does not say where the scanner stood: places that another pass sees as well are left to that one.";
            }
        }
        $count = count($layers);
        $result = Sieve::apply($workpiece, fn (PointCloud $cloud, int $k): string => $k < $count ? self::mask($layers, $k, $gap, $agreeing) : str_repeat("\1", $cloud->count()), new PartProgress($progress, 0.5, 1.0), 'layers', $notes);

        return new Result($result->workpiece, $result->before['points'] === $result->after['points'] ? ($agreeing ? 'nothing seen better by another' : 'no double skins up to '.Format::mm($gap)) : $result->headline, $result->before, $result->after, $result->notes);
    }

    /** @param  list<string>  $locked */
    private function moved(Workpiece $workpiece, float $gap, array $locked, Progress $progress): Result
    {
        $before = self::doubled($workpiece, $gap, new PartProgress($progress, 0.0, 0.2));
        if ($before === 0) {
            return new Result($workpiece, 'no double skins up to '.Format::mm($gap), ['doubled' => 0], ['doubled' => 0]);
        }
        $result = $this->registration->registered($workpiece, $gap, $locked, new PartProgress($progress, 0.2, 0.8));
        $after = self::doubled($result->workpiece, $gap, new PartProgress($progress, 0.8, 1.0));
        if ($after >= $before) {
            return new Result($workpiece, 'no better by moving', ['doubled' => $before], ['doubled' => $before], ['Moving the passes leaves '.Format::count($after).' of '.Format::count($before).' points in two layers: they differ in shape, not in place. They stay where they were; resolve by dropping.'], Outcome::NotConverged);
        }
        $notes = $after === 0 ? $result->notes : [...$result->notes, Format::count($after).' points still lie in two layers: there the passes differ in shape, not in place. Resolve these by dropping.'];

        return new Result($result->workpiece, Format::count($before).' → '.Format::count($after).' points in two layers', ['doubled' => $before], ['doubled' => $after], $notes, $result->outcome, $result->maps);
    }

    /** Points over or under which another pass has one that was seen better. */
    private static function doubled(Workpiece $workpiece, float $gap, Progress $progress): int
    {
        $sieved = self::dropped($workpiece, $gap, false, $progress);

        return $workpiece->pointCount() - $sieved->workpiece->pointCount();
    }

    /**
     * A pass as it is compared: in the order of its tree.
     *
     * @return array{tree: KdTree, normals: list<float>, quality: list<float>, spacing: float, noise: list<float>, order: array<int, int>}
     */
    private static function layer(PointCloud $cloud): array
    {
        if ($cloud->count() < 2 * self::NEIGHBOURS) {
            return ['tree' => KdTree::of([]), 'normals' => [], 'quality' => [], 'spacing' => 0.0, 'noise' => [], 'order' => []];
        }
        $grid = PointGrid::of($cloud->positions);
        $near = $grid->neighbourhoods(self::NEIGHBOURS);
        $n = $near['normals'];
        $count = $cloud->count();
        $quality = array_fill(0, $count, 0.0);
        if ($cloud->sensorOrigin !== null) {
            [$x, $y, $z] = $cloud->sensorOrigin;
            foreach (IncidenceAngle::cosines($grid->sorted, $n, $cloud->sensorOrigin) as $i => $cosine) {
                $o = 3 * $i;
                $dx = $x - $grid->sorted[$o];
                $dy = $y - $grid->sorted[$o + 1];
                $dz = $z - $grid->sorted[$o + 2];
                // Range noise grows with the distance squared and with the slant.
                $quality[$i] = abs($cosine) / max(1e-12, $dx * $dx + $dy * $dy + $dz * $dz);
                if ($dx * $n[$o] + $dy * $n[$o + 1] + $dz * $n[$o + 2] < 0.0) {
                    $n[$o] = -$n[$o];
                    $n[$o + 1] = -$n[$o + 1];
                    $n[$o + 2] = -$n[$o + 2];
                }
            }
        }
        $tree = KdTree::of($grid->sorted);
        $normals = $sorted = $noise = [];
        $order = [];
        foreach ($tree->order as $slot) {
            array_push($normals, $n[3 * $slot], $n[3 * $slot + 1], $n[3 * $slot + 2]);
            $sorted[] = $quality[$slot];
            $noise[] = $near['across'][$slot];
            $order[] = $grid->order[$slot];
        }

        return ['tree' => $tree, 'normals' => $normals, 'quality' => $sorted, 'spacing' => Median::of($near['spacing']), 'noise' => $noise, 'order' => $order];
    }

    /**
     * A byte a point of pass $k, zero for those over or under which, or ($agreeing) where, another pass has one that was seen better.
     *
     * @param  list<array{tree: KdTree, normals: list<float>, quality: list<float>, spacing: float, noise: list<float>, order: array<int, int>}>  $layers
     */
    private static function mask(array $layers, int $k, float $gap, bool $agreeing): string
    {
        $own = $layers[$k];
        $p = $own['tree']->sorted;
        $n = $own['normals'];
        $mask = str_repeat("\1", count($own['order']));
        foreach ($layers as $j => $other) {
            if ($j === $k || $other['order'] === [] || $own['order'] === []) {
                continue;
            }
            $aside = self::ASIDE * $other['spacing'];
            $nearest = $distanceSq = [];
            $other['tree']->nearest($p, sqrt($gap * $gap + $aside * $aside), $nearest, $distanceSq);
            $q = $other['tree']->sorted;
            foreach ($nearest as $i => $at) {
                if ($at < 0) {
                    continue;
                }
                $o = 3 * $i;
                $nx = $other['normals'][$at];
                $ny = $other['normals'][$at + 1];
                $nz = $other['normals'][$at + 2];
                $facing = $nx * $n[$o] + $ny * $n[$o + 1] + $nz * $n[$o + 2];
                $height = abs($nx * ($p[$o] - $q[$at]) + $ny * ($p[$o + 1] - $q[$at + 1]) + $nz * ($p[$o + 2] - $q[$at + 2]));
                // What the neighbours of each stray from their plane: noise, and at edges and bends the shape itself.
                $least = self::APART * sqrt($own['noise'][$i] ** 2 + $other['noise'][intdiv($at, 3)] ** 2);
                $isDoubled = $height > $least;
                if ($facing < self::SAME_WAY || ! ($isDoubled || $agreeing) || $height > $gap || $aside * $aside < $distanceSq[$i] - $height * $height) {
                    continue;
                }
                $theirs = $other['quality'][intdiv($at, 3)];
                $ours = $isDoubled ? $own['quality'][$i] : self::CLEARLY * $own['quality'][$i];
                // Of two layers that are as good the earlier pass stays.
                if ($theirs > $ours || ($isDoubled && $theirs === $ours && $j < $k)) {
                    $mask[$own['order'][$i]] = "\0";
                }
            }
        }

        return $mask;
    }
}
