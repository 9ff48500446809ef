<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;

/**
 * Finds areas of a mesh that are each part of one plane, cylinder, cone, sphere or torus.
 *
 * Source    region growing with shape fits: a disc of faces far from every crease tells a shape (TurnedFit), which grows over all faces that lie on it and face its way, is fitted anew to
 *           what it holds, and grows again. Larger discs first; a shape counts as much as it holds (Schnabel, Wahl & Klein 2007).
 * Departs   discs at the deepest places instead of random samples: the same mesh gives the same areas. A shape is none if the fit to the middle of its area does not foretell the rest, or
 *           if its distances have a trend (Trend): so patches of free form, which any shape meets somewhere, fall away.
 * Cost      a walk over the faces for each shape and round, and a fit for each disc.
 *
 * @internal
 */
final class ShapeGrowing
{
    /** Faces of the discs that shapes are first told from; as many times more where the least area holds more than the first. */
    private const DISCS = [400, 120, 40, 12, 4, 2];

    /** The tolerance is this many times the noise. */
    private const WIDE = 4.0;

    /** The tolerance is at least this many times what facets lie inside of a round surface: those who go around have some to either side. Flats of what is round are planes where only planes are asked for. */
    private const FACETED = 2.0;

    /** The tolerance of a mesh without noise, as a share of its size: what is left of single precision in files. */
    private const EXACT = 1e-6;

    /** Faces are fine of which the least area holds more than this: areas of them are many faces deep, and strips along edges are none. A mesh may have fine faces where it curves and coarse flats. */
    public const FINE = 30;

    /** Discs of fine faces hold at least this share of those in the least area. */
    private const SMALL = 0.2;

    /** Rings of faces from its border that the middle of an area has in a fine mesh. */
    private const DEPTH = 4;

    /** Rings that the rounding of an edge surely takes up. */
    private const ROUNDED = 2;

    /** Faces of the middle that tell a shape by themselves; of a smaller area some rings less are left out. */
    private const TELLING = 100;

    /** Faces that the middle has at least. */
    private const INNER = 12;

    /** Times the noise: how far the middle of an area may lie off its shape, root mean square. */
    private const OFF_INSIDE = 2.0;

    /** Times the noise: how far the whole may lie off the fit to its middle, root mean square; edges are rounded. */
    private const OFF = 2.4;

    /** Times the noise: the root mean square distance below which a trend is one of rounding. */
    private const MATTERS = 0.25;

    /** Times the noise: what a plane is off a round shape at least. What bends less could be any shape. */
    private const BENT = 4.0;

    /** Share of the squares of the distances that a trend may explain; passes that lie beside each other make a fifth of it. */
    private const TREND = 0.45;

    /** Times these limits while the noise is told by discs alone. */
    private const UNSURE = 2.0;

    /** A plainer shape is taken that errs by no more than this many times as much. */
    private const AS_GOOD = 1.3;

    /** Another kind of shape is taken that holds this many times as much. */
    private const MORE = 1.15;

    /** Share of an area that a shape fitted to its middle must hold: corners alone may lie on a shape that the faces between do not follow. */
    private const KEPT = 0.8;

    /** Rounds in which a shape is fitted anew to what it holds. */
    private const ROUNDS = 4;

    /** Of the least area: what an area must reach each time it grows, or it is given up. */
    private const HOPE = 0.5;

    /** Points that a disc is thinned to for a fit; what has grown, to twice as many. */
    private const FEW = 64;

    /** Points that an area is thinned to for what decides on its shape. */
    private const MANY = 250;

    /** Share of the tolerance: a fit from which a shape only grows need be no better. */
    private const ROUGH = 0.02;

    /** Steps of a fit to a disc, which only has to tell whether there is anything. */
    private const FIRST_STEPS = 5;

    /** Steps of a fit to what has grown. */
    private const STEPS = 12;

    /** Axes that a torus is tried on. */
    private const AXES = 3;

    /** @var array<int, int> of each face its shape, -1 for none */
    private array $labels;

    /** @var list<TurnedShape> by label */
    private array $shapes = [];

    private float $noise;

    private float $tolerance;

    /** mm, root mean square: a plainer shape that errs by less is taken, however well another fits; 0 unless a tolerance was asked for */
    private float $allowed = 0.0;

    /** mm2 */
    private float $least;

    /** What limits are multiplied by as long as the noise is not known from shapes. */
    private float $unsure = 1.0;

    /** @var array<int, true> faces from which this round has found nothing */
    private array $tried = [];

    /**
     * @param  array<int, int>  $counts  1 for a face that shapes are told from, 0 for one that only goes along; empty when all are
     * @param  list<string>  $kinds  of TurnedFit::KINDS
     */
    private function __construct(private readonly FaceField $field, private readonly array $counts, private readonly array $kinds)
    {
        $this->labels = array_fill(0, $field->count(), -1);
    }

    /**
     * @param  array<int, int>  $counts  1 for a face that shapes are told from, 0 for one that only goes along; empty when all are
     * @param  list<string>  $kinds  of TurnedFit::KINDS
     * @param  float|null  $tolerance  mm that a vertex may lie off its shape; null: told from the noise of the mesh
     * @param  float  $share  of the area that a shape must have
     * @param  callable(float): void  $breathe  told how much is done; may stop the work by an exception
     * @return array{labels: array<int, int>, shapes: list<TurnedShape>, noise: float, tolerance: float} of each face its shape, -1 for none
     */
    public static function over(FaceField $field, array $counts, array $kinds, ?float $tolerance, float $share, callable $breathe): array
    {
        $work = new self($field, $counts, $kinds);
        $work->tolerance = $tolerance ?? max(self::WIDE * $field->noise(), $kinds === ['plane'] ? 0.0 : self::FACETED * $field->sagitta(), self::EXACT * BoundingBox::of($field->p)->diagonal());
        $work->noise = $work->tolerance / self::WIDE;
        $work->allowed = 0.5 * (float) $tolerance;
        $work->least = $share * array_sum($field->areas);
        // Faces that the least area holds, so far as they are fine.
        $fine = array_filter($field->areas, fn (float $area) => $area < $work->least / self::FINE);
        $hold = $fine === [] ? 0.0 : $work->least * count($fine) / array_sum($fine);
        $larger = max(1.0, $hold / self::DISCS[0]);
        $discs = array_map(fn (int $faces) => (int) ($larger * $faces), self::DISCS);
        $work->unsure = $tolerance === null ? self::UNSURE : 1.0;
        foreach ($discs as $k => $faces) {
            $work->round($faces, $faces > max(self::FINE, self::SMALL * $hold), fn (float $done) => $breathe(($k + $done) / count($discs)));
            if ($work->unsure > 1.0) {
                $work->widen();
            }
        }

        return ['labels' => $work->labels, 'shapes' => $work->shapes, 'noise' => $work->noise, 'tolerance' => $work->tolerance];
    }

    /** Takes the noise from what was found where it is more than discs tell: passes that lie beside each other make steps that a sheet of second order follows. */
    private function widen(): void
    {
        $of = [];
        foreach ($this->labels as $t => $label) {
            $label < 0 || $of[$label][] = $t;
        }
        $rms = array_map(fn (array $faces, int $label) => TurnedFit::rms($this->shapes[$label], $this->field->sample($faces, self::MANY)['points']), $of, array_keys($of));
        if ($rms === []) {
            return;
        }
        $this->unsure = 1.0;
        $this->noise = min(3.0 * $this->noise, max($this->noise, Median::of($rms)));
        $this->tolerance = max($this->tolerance, self::WIDE * $this->noise);
        // What passed only because the noise was not known goes, and its faces are looked at again.
        $number = [];
        foreach (array_keys($of) as $k => $label) {
            if ($rms[$k] <= self::OFF * $this->noise) {
                $number[$label] = count($number);
            }
        }
        $this->labels = array_map(fn (int $label) => $number[$label] ?? -1, $this->labels);
        $this->shapes = array_values(array_map(fn (int $label) => $this->shapes[$label], array_keys($number)));
    }

    /**
     * @param  bool  $all  also fine faces; else coarse ones alone
     * @return list<int> the faces without a shape, those farthest from creases and from what has a shape first; of fine ones those that lie deep
     */
    private function seeds(bool $all): array
    {
        $labels = $this->labels;
        $smooth = $this->field->smooth;
        $faces = count($labels);
        $order = [];
        $depth = array_fill(0, $faces, -1);
        for ($t = 0; $t < $faces; $t++) {
            if ($labels[$t] >= 0) {
                continue;
            }
            for ($h = 3 * $t, $e = $h + 3; $h < $e; $h++) {
                if ($smooth[$h] < 0 || $labels[(int) ($smooth[$h] / 3)] >= 0) {
                    $depth[$t] = 0;
                    $order[] = $t;
                    break;
                }
            }
        }
        for ($k = 0; $k < count($order); $k++) {
            for ($h = 3 * $order[$k], $e = $h + 3; $h < $e; $h++) {
                if ($smooth[$h] >= 0 && $depth[$t = (int) ($smooth[$h] / 3)] < 0 && $labels[$t] < 0) {
                    $depth[$t] = $depth[$order[$k]] + 1;
                    $order[] = $t;
                }
            }
        }
        $areas = $this->field->areas;
        $coarse = $this->least / self::FINE;
        $seeds = [];
        foreach (array_reverse($order) as $t) {
            if ($areas[$t] >= $coarse || ($all && $depth[$t] >= self::DEPTH)) {
                $seeds[] = $t;
            }
        }
        // What no crease bounds at all: a whole ball.
        for ($t = 0; $t < $faces; $t++) {
            if ($depth[$t] < 0 && $labels[$t] < 0 && ($all || $areas[$t] >= $coarse)) {
                $seeds[] = $t;
            }
        }

        return $seeds;
    }

    /**
     * @param  bool  $all  see seeds()
     * @param  callable(float): void  $breathe
     */
    private function round(int $size, bool $all, callable $breathe): void
    {
        $this->tried = [];
        $seeds = $this->seeds($all);
        $left = count($seeds);
        foreach ($seeds as $k => $seed) {
            if ($this->labels[$seed] >= 0 || isset($this->tried[$seed]) || ($this->counts[$seed] ?? 1) === 0) {
                continue;
            }
            $breathe($k / $left);
            $disc = $this->field->disc($seed, $size, $this->labels);
            $found = count($disc) < max(1, 0.5 * $size) ? null : $this->found($disc);
            if ($found === null) {
                $this->giveUp($disc);

                continue;
            }
            $label = count($this->shapes);
            $this->shapes[] = $found['shape'];
            foreach ($found['faces'] as $t) {
                $this->labels[$t] = $label;
            }
        }
    }

    /**
     * The shape that explains a disc and grows from it, with its faces.
     *
     * @param  list<int>  $disc
     * @return array{shape: TurnedShape, faces: list<int>}|null
     */
    private function found(array $disc): ?array
    {
        $best = null;
        $sample = $this->field->sample($disc, self::FEW);
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $better = null;
            foreach ($this->candidates($sample, $round > 0) as $shape) {
                $faces = $this->grown($shape, $best['faces'] ?? $disc);
                $area = $this->area($faces);
                if ($area > self::MORE * ($better['area'] ?? 0.0)) {
                    $better = ['shape' => $shape, 'faces' => $faces, 'area' => $area];
                }
            }
            if ($better === null || $better['area'] <= 1.02 * ($best['area'] ?? 0.0) || $better['area'] < self::HOPE * $this->least) {
                break;
            }
            $best = $better;
            $sample = $this->field->sample($best['faces'], 2 * self::FEW);
        }

        $found = $best === null || $best['area'] < $this->least ? null : $this->settled($best['faces'], $best['shape']);
        if ($found === null) {
            $this->giveUp($best['faces'] ?? []);
        }

        return $found;
    }

    /** @param  list<int>  $faces */
    private function giveUp(array $faces): void
    {
        foreach ($faces as $t) {
            $this->tried[$t] = true;
        }
    }

    /**
     * The plainest shape of an area with what it then holds; null where the middle of the area does not tell it.
     *
     * @param  list<int>  $faces
     * @param  TurnedShape  $grown  that has grown over them
     * @return array{shape: TurnedShape, faces: list<int>}|null
     */
    private function settled(array $faces, TurnedShape $grown): ?array
    {
        $middle = $this->middle($faces);
        if (count($middle) < min(count($faces), self::INNER)) {
            return null;
        }
        $sample = $this->field->sample($middle, self::MANY);
        // Most of what is none shows here, before other kinds are tried.
        $again = TurnedFit::refined($grown, $sample['points'], $sample['weights'], self::ROUGH * $this->tolerance);
        if ($again === null || ! $this->foretells($again, $sample['points'], $faces)) {
            return null;
        }
        $least = self::KEPT * $this->area($faces);
        $shapes = array_filter($this->candidates($sample, true), fn (TurnedShape $shape) => $this->area($this->grown($shape, $faces)) > $least);
        $shape = $this->plainest($sample['points'], array_values($shapes));
        if ($shape === null) {
            return null;
        }
        $faces = $this->grown($shape, $faces);
        if ($this->area($faces) < $this->least || ! $this->foretells($shape, $sample['points'], $faces)) {
            return null;
        }
        $points = $this->field->sample($faces, self::MANY)['points'];
        $inner = $this->isFine($faces) ? $this->field->inner($faces, self::ROUNDED) : [];
        $most = $this->field->sample(count($inner) < self::INNER ? $faces : $inner, self::MANY);
        $distances = $shape->distances($most['points']);
        if (TurnedFit::rms($shape, $most['points']) > self::MATTERS * $this->noise && Trend::share($distances, $most['points'], $most['normals']) > self::TREND) {
            return null;
        }
        if ($shape->kind !== 'plane' && TurnedFit::offPlane($points) < self::BENT * $this->noise) {
            return null;
        }

        return ['shape' => $shape, 'faces' => $faces];
    }

    /** @param  list<int>  $faces */
    private function isFine(array $faces): bool
    {
        return $this->field->area($faces) < count($faces) * $this->least / self::FINE;
    }

    /**
     * Whether a shape fits the middle of an area as the noise allows, and from there tells the rest.
     *
     * @param  list<float>  $middle  points
     * @param  list<int>  $faces
     */
    private function foretells(TurnedShape $shape, array $middle, array $faces): bool
    {
        return TurnedFit::rms($shape, $middle) <= $this->unsure * self::OFF_INSIDE * $this->noise
            && TurnedFit::rms($shape, $this->field->sample($faces, self::MANY)['points']) <= $this->unsure * self::OFF * $this->noise;
    }

    /**
     * @param  list<int>  $faces
     * @return list<int>
     */
    private function middle(array $faces): array
    {
        if (! $this->isFine($faces)) {
            return $faces;
        }
        for ($rings = self::DEPTH; $rings > 1; $rings--) {
            $middle = $this->field->inner($faces, $rings);
            if (count($middle) >= self::TELLING) {
                break;
            }
        }

        return $middle;
    }

    /** @param  list<int>  $faces */
    private function area(array $faces): float
    {
        $area = 0.0;
        foreach ($faces as $t) {
            $area += ($this->counts[$t] ?? 1) * $this->field->areas[$t];
        }

        return $area;
    }

    /**
     * @param  array{points: list<float>, normals: list<float>, weights: list<float>, flatness: float}  $sample
     * @return list<TurnedShape> that fit, the plainest first
     */
    private function candidates(array $sample, bool $all): array
    {
        $found = [];
        $near = max(2.0 * $this->tolerance, 1.1 * $sample['flatness']);
        foreach ($this->kinds as $kind) {
            $start = TurnedFit::start($kind, $sample['points'], $sample['normals'], $kind === 'torus' ? $this->axes($sample['points']) : []);
            // A start that is far off leads nowhere; but it takes the normals of flats for those of the corners.
            if ($start === null || ($kind !== 'plane' && self::typical($start, $sample['points']) > $near)) {
                continue;
            }
            $shape = TurnedFit::refined($start, $sample['points'], $sample['weights'], self::ROUGH * $this->tolerance, $all ? self::STEPS : self::FIRST_STEPS);
            if ($shape !== null && self::typical($shape, $sample['points']) <= 0.5 * $this->tolerance) {
                $found[] = $shape;
                // A flat disc tells no other shape; what it grows to may.
                if (! $all && $kind === 'plane') {
                    break;
                }
            }
        }

        return $found;
    }

    /** @param  list<float>  $points */
    private static function typical(TurnedShape $shape, array $points): float
    {
        return Median::of(array_map(abs(...), $shape->distances($points)));
    }

    /**
     * The axes of the shapes found, those that pass nearest to a place first.
     *
     * @param  list<float>  $points
     * @return list<array{origin: array{float, float, float}, axis: array{float, float, float}}>
     */
    private function axes(array $points): array
    {
        $at = array_slice($points, 0, 3);
        $axes = $way = [];
        foreach ($this->shapes as $shape) {
            if ($shape->kind === 'cylinder' || $shape->kind === 'cone' || $shape->kind === 'torus') {
                $axes[] = ['origin' => $shape->origin, 'axis' => $shape->axis];
                $way[] = Vector3::length(Vector3::cross(Vector3::minus($at, $shape->origin), $shape->axis));
            }
        }
        asort($way);

        return array_map(fn (int $k) => $axes[$k], array_slice(array_keys($way), 0, self::AXES));
    }

    /**
     * The plainest of some shapes that fits about as well as the best; null where none fits as the noise allows.
     *
     * @param  list<float>  $points
     * @param  list<TurnedShape>  $shapes  the plainest first
     */
    private function plainest(array $points, array $shapes): ?TurnedShape
    {
        $rms = array_map(fn (TurnedShape $shape) => TurnedFit::rms($shape, $points), $shapes);
        if ($rms === [] || min($rms) > $this->unsure * self::OFF_INSIDE * $this->noise) {
            return null;
        }
        foreach ($rms as $k => $value) {
            if ($value <= max(self::AS_GOOD * min($rms) + 0.01 * $this->noise, $this->allowed)) {
                return $shapes[$k];
            }
        }

        return null;
    }

    /**
     * What a shape reaches from some faces, among those without a shape.
     *
     * @param  list<int>  $from
     * @return list<int>
     */
    private function grown(TurnedShape $shape, array $from): array
    {
        return ShapeReach::of($this->field, $shape, $from, $this->labels, $this->tolerance);
    }
}
