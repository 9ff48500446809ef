<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\Vector3;

/**
 * Gives every face of a mesh to one of the shapes found on it, or to the free form between them.
 *
 * Source    faces at borders go to the neighbour whose shape they suit best (Cohen-Steiner, Alliez & Desbrun 2004, without seeds and queue: the shapes stand).
 * Departs   a face suits by distance and by the turn of its normal, as lengths; both count the same at a typical edge.
 *
 * @internal
 */
final class ShapeBorders
{
    /** Rings of faces along an edge that its rounding takes up; these go to the shapes beside it. */
    private const RINGS = 6;

    /** Typical edges that such a face lies off its shape at most. */
    private const REACH = 1.0;

    private const SWEEPS = 4;

    /** Rings that free form is deep at least; less is the rounding of an edge. */
    private const DEPTH = 3;

    /** Times the error of a shape about its own points that it may err by at those of another that is to be the same, and the share of the noise besides. */
    private const SAME = 1.3;

    private const SAME_NOISE = 0.5;

    /** Times that: how far points may lie off another shape for one that is fitted to both to be looked for. */
    private const NEARLY = 5.0;

    /** Points of an area that are looked at for that. */
    private const POINTS = 200;

    /** Of the border of a shape that is not firm: the share along firm ones that holds it. The sides of a slot have a third; of a ball it takes more, scales sit on collars. */
    private const HELD = 0.3;

    private const HELD_BALL = 0.5;

    /** In place of a neighbour where there is none, or a sharp edge bounds a plane. */
    private const RIM = -2;

    /** Times the least area: a plane of this size is one, whatever lies around it; the crest of a wave is smaller. */
    private const LARGE = 5.0;

    /** Share of a ball that is as good as all of it: on a stem, not sunk into something. */
    private const BALL = 0.8;

    /** Typical edges: the mismatch of a face that is surely of a shape. */
    private const OWN = 0.15;

    /** Mean length of the unit normals of an area that bends by half a turn. */
    private const AROUND = 0.66;

    /** @var list<float> the middles of the faces */
    private readonly array $centres;

    /** mm */
    private readonly float $edge;

    /**
     * @param  array<int, int>  $labels  -1 for none
     * @param  array<int, TurnedShape>  $shapes  by label
     */
    private function __construct(private readonly FaceField $field, private array $labels, private array $shapes)
    {
        $this->centres = Measure::centres($field->p, $field->f);
        $this->edge = Measure::typicalEdge($field->p, $field->f);
    }

    /**
     * @param  array{labels: array<int, int>, shapes: list<TurnedShape>, noise: float, tolerance: float}  $grown  see ShapeGrowing::over
     * @param  float  $least  mm2 that free form has at least, to be an area of its own
     * @param  bool  $all  whether shapes among free form stay
     * @return array{labels: list<int>, shapes: array<int, TurnedShape|null>} of each face its area, 0 and more in order of size; null for free form
     */
    public static function settled(FaceField $field, array $grown, float $least, bool $all): array
    {
        $work = new self($field, $grown['labels'], $grown['shapes']);
        $work->spread(self::RINGS, self::REACH * $work->edge);
        // Before areas are joined: patches around an egg are no ring.
        $all || $work->loosen($least);
        $work->merge($grown['noise']);
        $free = $work->free($least);
        $work->sweep();

        return $work->numbered($free);
    }

    /** @return array<int, list<int>> faces by label */
    private function faces(): array
    {
        $of = [];
        foreach ($this->labels as $t => $label) {
            $label < 0 || $of[$label][] = $t;
        }

        return $of;
    }

    /** Areas of one plane, or of one cylinder, are one shape, also where something parts them: their points are told apart by no more than the noise. */
    private function merge(float $noise): void
    {
        $of = $this->faces();
        uasort($of, fn (array $a, array $b) => count($b) <=> count($a));
        $samples = array_map(fn (array $faces) => $this->field->sample($faces, self::POINTS), $of);
        $into = [];
        foreach (array_keys($of) as $k => $label) {
            foreach (array_slice(array_keys($of), 0, $k) as $larger) {
                if (isset($into[$larger]) || $this->shapes[$larger]->kind !== $this->shapes[$label]->kind) {
                    continue;
                }
                if ($this->side($larger, $samples[$label]) !== $this->side($larger, $samples[$larger]) || ! $this->isOne($this->shapes[$larger], $this->shapes[$label], $samples[$larger], $samples[$label], $noise)) {
                    continue;
                }
                $into[$label] = $larger;
                break;
            }
        }
        $this->labels = array_map(fn (int $label) => $into[$label] ?? $label, $this->labels);
        $this->shapes = array_diff_key($this->shapes, $into);
    }

    /**
     * Whether a shape that is fitted to two areas suits each about as well as its own.
     *
     * @param  array{points: list<float>, normals: list<float>, weights: list<float>}  $ofOne
     * @param  array{points: list<float>, normals: list<float>, weights: list<float>}  $ofOther
     */
    private function isOne(TurnedShape $one, TurnedShape $other, array $ofOne, array $ofOther, float $noise): bool
    {
        $most = fn (TurnedShape $shape, array $sample) => self::SAME * TurnedFit::rms($shape, $sample['points']) + self::SAME_NOISE * $noise;
        // Far apart they need no fit to be told.
        if (TurnedFit::rms($one, $ofOther['points']) > self::NEARLY * $most($other, $ofOther)) {
            return false;
        }
        $both = TurnedFit::refined($one, [...$ofOne['points'], ...$ofOther['points']], [...$ofOne['weights'], ...$ofOther['weights']], 1e-3 * $noise);

        return $both !== null && TurnedFit::rms($both, $ofOne['points']) <= $most($one, $ofOne) && TurnedFit::rms($both, $ofOther['points']) <= $most($other, $ofOther);
    }

    /**
     * Whether points with normals look the way in which the distance from a shape grows.
     *
     * @param  array{points: list<float>, normals: list<float>, weights: list<float>}  $sample
     */
    private function side(int $label, array $sample): bool
    {
        $sum = 0.0;
        for ($o = 0, $e = count($sample['points']); $o < $e; $o += 3) {
            $n = $this->shapes[$label]->normal($sample['points'][$o], $sample['points'][$o + 1], $sample['points'][$o + 2]);
            $sum += $n[0] * $sample['normals'][$o] + $n[1] * $sample['normals'][$o + 1] + $n[2] * $sample['normals'][$o + 2];
        }

        return $sum > 0.0;
    }

    private function mismatch(int $t, int $label): float
    {
        $o = 3 * $t;
        $n = $this->field->normals;

        return $this->shapes[$label]->mismatch($this->centres[$o], $this->centres[$o + 1], $this->centres[$o + 2], $n[$o], $n[$o + 1], $n[$o + 2], $this->edge);
    }

    /**
     * Faces without a shape go to the shape beside them that they suit best, ring by ring.
     *
     * @param  float  $reach  mm that they may lie off it
     * @param  array<int, true>|null  $only  these faces
     */
    private function spread(int $rings, float $reach, ?array $only = null): void
    {
        $twins = $this->field->twins;
        $front = $only === null ? array_keys($this->labels, -1, true) : array_keys($only);
        for ($ring = 0; $ring < $rings && $front !== []; $ring++) {
            $new = $next = [];
            foreach ($front as $t) {
                $best = INF;
                $beside = -1;
                for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                    $label = $twins[$h] < 0 ? -1 : $this->labels[(int) ($twins[$h] / 3)];
                    if ($label >= 0 && $label !== $beside && ($miss = $this->mismatch($t, $label)) < $best) {
                        [$best, $beside] = [$miss, $label];
                    }
                }
                if ($beside >= 0 && $best <= $reach) {
                    $new[$t] = $beside;
                }
            }
            foreach ($new as $t => $label) {
                $this->labels[$t] = $label;
            }
            foreach ($new as $t => $_) {
                for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                    if ($twins[$h] >= 0 && $this->labels[$u = (int) ($twins[$h] / 3)] < 0 && ($only === null || isset($only[$u]))) {
                        $next[$u] = $u;
                    }
                }
            }
            $front = array_values($next);
        }
    }

    /**
     * Shapes that nothing firm holds become free form: scales, beads, and patches of what bends so little that many shapes would do. Held is what borders for a good part on what is firm, or on planes that are held.
     */
    private function loosen(float $least): void
    {
        $of = $this->faces();
        $firm = $beside = $border = [];
        foreach ($of as $label => $faces) {
            $firm[$label] = $this->isFirm($label, $faces, $least);
            $border[$label] = 0;
        }
        foreach ($this->field->twins as $h => $g) {
            $label = $this->labels[(int) ($h / 3)];
            $other = $g < 0 ? self::RIM : $this->labels[(int) ($g / 3)];
            // A flat that ends at a sharp edge is one.
            $other = $label >= 0 && $label !== $other && $this->field->smooth[$h] < 0 && $this->shapes[$label]->kind === 'plane' ? self::RIM : $other;
            if ($label >= 0 && $label !== $other) {
                $border[$label]++;
                $beside[$label][$other] = ($beside[$label][$other] ?? 0) + 1;
            }
        }
        $firm += [self::RIM => true];
        // Planes that are held hold others; what is round does not: scales lie on scales.
        $holds = $firm;
        do {
            $held = array_filter($border, function (int $edges, int $label) use ($firm, $holds, $beside): bool {
                $at = array_filter($beside[$label] ?? [], fn (int $other) => $holds[$other] ?? false, ARRAY_FILTER_USE_KEY);

                return ! $firm[$label] && array_sum($at) >= ($this->shapes[$label]->kind === 'sphere' ? self::HELD_BALL : self::HELD) * $edges;
            }, ARRAY_FILTER_USE_BOTH);
            foreach (array_keys($held) as $label) {
                $firm[$label] = true;
                $holds[$label] = $this->shapes[$label]->kind === 'plane';
            }
        } while ($held !== []);
        $this->shapes = array_filter($this->shapes, fn (int $label) => $firm[$label] ?? false, ARRAY_FILTER_USE_KEY);
        $this->labels = array_map(fn (int $label) => $label >= 0 && $firm[$label] ? $label : -1, $this->labels);
    }

    /**
     * Whether a shape is beyond doubt by itself: a large plane, nearly a whole ball, or what bends by half a turn.
     *
     * @param  list<int>  $faces
     */
    private function isFirm(int $label, array $faces, float $least): bool
    {
        $shape = $this->shapes[$label];
        $area = 0.0;
        $sum = [0.0, 0.0, 0.0];
        foreach ($faces as $t) {
            // What went to it only for want of better tells nothing of it.
            if ($this->mismatch($t, $label) > self::OWN * $this->edge) {
                continue;
            }
            $area += $w = $this->field->areas[$t];
            for ($c = 0; $c < 3; $c++) {
                $sum[$c] += $w * $this->field->normals[3 * $t + $c];
            }
        }

        return match ($shape->kind) {
            'plane' => $area > self::LARGE * $least,
            'sphere' => $area > self::BALL * 4.0 * M_PI * $shape->tube ** 2,
            default => Vector3::length($sum) < self::AROUND * $area,
        };
    }

    /**
     * What still has no shape becomes areas of free form, connected; what is small or thin goes to the shapes beside it.
     *
     * @return array<int, true> the labels of free form
     */
    private function free(float $least): array
    {
        $twins = $this->field->twins;
        $free = $seen = [];
        $label = count($this->shapes) === 0 ? 0 : max(array_keys($this->shapes)) + 1;
        foreach ($this->labels as $start => $of) {
            if ($of >= 0 || isset($seen[$start])) {
                continue;
            }
            $piece = [$start];
            $seen[$start] = true;
            $area = 0.0;
            $alone = true;
            for ($k = 0; $k < count($piece); $k++) {
                $area += $this->field->areas[$piece[$k]];
                for ($h = 3 * $piece[$k], $e = $h + 3; $h < $e; $h++) {
                    if ($twins[$h] < 0) {
                        continue;
                    }
                    $u = (int) ($twins[$h] / 3);
                    if ($this->labels[$u] >= 0) {
                        $alone = false;
                    } elseif (! isset($seen[$u])) {
                        $seen[$u] = true;
                        $piece[] = $u;
                    }
                }
            }
            $isThin = $area < count($piece) * $least / ShapeGrowing::FINE && $this->field->inner($piece, self::DEPTH) === [];
            if (! $alone && ($area < $least || $isThin)) {
                $this->spread(PHP_INT_MAX, INF, array_fill_keys($piece, true));

                continue;
            }
            foreach ($piece as $t) {
                $this->labels[$t] = $label;
            }
            $free[$label++] = true;
        }

        return $free;
    }

    /** Faces at borders between shapes change over to the shape that they suit better. */
    private function sweep(): void
    {
        $twins = $this->field->twins;
        for ($round = 0; $round < self::SWEEPS; $round++) {
            $changed = [];
            foreach ($twins as $h => $g) {
                if ($g < 0) {
                    continue;
                }
                $own = $this->labels[$t = (int) ($h / 3)];
                $other = $this->labels[(int) ($g / 3)];
                if ($own !== $other && isset($this->shapes[$own], $this->shapes[$other]) && $this->mismatch($t, $other) < $this->mismatch($t, $changed[$t] ?? $own)) {
                    $changed[$t] = $other;
                }
            }
            foreach ($changed as $t => $label) {
                $this->labels[$t] = $label;
            }
            if ($changed === []) {
                break;
            }
        }
    }

    /**
     * @param  array<int, true>  $free
     * @return array{labels: list<int>, shapes: array<int, TurnedShape|null>}
     */
    private function numbered(array $free): array
    {
        $areas = [];
        foreach ($this->labels as $t => $label) {
            $areas[$label] = ($areas[$label] ?? 0.0) + $this->field->areas[$t];
        }
        // Areas that are the same but for rounding keep the order of their faces.
        $areas = array_map(fn (float $area) => (float) sprintf('%.9e', $area), $areas);
        arsort($areas);
        $number = array_flip(array_keys($areas));
        $shapes = [];
        foreach ($number as $label => $k) {
            $shapes[$k] = isset($free[$label]) ? null : $this->shapes[$label];
        }

        return ['labels' => array_values(array_map(fn (int $label) => $number[$label], $this->labels)), 'shapes' => $shapes];
    }
}
