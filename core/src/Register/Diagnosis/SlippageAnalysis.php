<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Diagnosis;

use Emberstone\Core\Algorithms\Icp\IcpEquations;
use Emberstone\Core\Algorithms\Linear\SymmetricEigen;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Register\Coarse\Overlaps;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\MultiviewIcp;
use Emberstone\Core\Register\PreparedPass;

/**
 * Motions of some registered passes against the others that the surface they share does not hold: along a prism, about the axis of what is turned, over a plane.
 *
 * The normal equations tell how much a motion takes surfaces off each other; what it hardly does lets them slide, and where a best fit ends along it is chance. Such passes are
 * looked for where more of the two lies on each other; where nothing holds them there either, they stay along it as the scanner had them.
 *
 * Source    Gelfand, Ikemoto, Rusinkiewicz & Levoy 2003, Geometrically stable sampling for the ICP algorithm (slippage).
 *
 * @internal
 *
 * @phpstan-import-type Joint from MultiviewIcp
 *
 * @phpstan-type Slide array{moving: list<int>, others: list<int>, held: float, turn: array{float, float, float}, shift: array{float, float, float}, centre: array{float, float, float}, isTurn: bool}
 *
 * turn in rad and shift of the centre in mm, of a motion that moves things by about 1 mm; held: mean square of how far it takes surfaces off each other, mm2.
 */
final class SlippageAnalysis
{
    /**
     * Motions are held from here on, and from that multiple of what the noise of normals alone seems to hold. Of 120 pairs of looks at pedestal, cap, wheel and finial those held by less than 0.0004 end 0.15 to 3.5 mm
     * off, those by 0.0005 to 0.001 within 0.17 mm; pairs of a bush, which nothing holds, come to 2.5 times the noise at most.
     */
    private const HELD = 0.0005;

    private const ABOVE_NOISE = 3.0;

    /** Arms (mean distances of the samples from their middle) that the axis of a motion is away at most where it is told as a turn; beyond it is told as a shift. */
    private const FAR = 2.0;

    /** Places to either side that are looked at along a slide. */
    private const PLACES = 12;

    /** Rounds in which passes are put back one side after another, at most: a side holds passes that others hold too. */
    private const SWEEPS = 20;

    /** Nearer than this to where they were put they are left, mm. */
    private const BACK = 0.005;

    /** Turns count as far as they move what is an arm away from the middle: this share of the diagonal of it all. */
    private const ARM = 0.3;

    /**
     * @param  list<PreparedPass>  $passes
     * @param  float  $spacing  of the points, mm
     */
    public function __construct(
        private readonly Icp $fit,
        private readonly array $passes,
        private readonly float $spacing,
    ) {
    }

    /**
     * Settles passes that slide; those that stay do not move.
     *
     * @param  list<array{int, int}>  $pairs  that were tightened
     * @param  Joint  $joint  what came of it
     * @param  list<RigidTransform>  $start  where the passes were put before
     * @param  list<int>  $still
     * @param  float  $reach  how far from there their places may be, mm
     * @return array{pairs: list<array{int, int}>, joint: Joint, slides: list<Slide>} tightened anew where that helped; what is left
     */
    public function settle(array $pairs, array $joint, array $start, array $still, float $reach, Progress $progress): array
    {
        $slides = $this->left($pairs, $joint, $still);
        $free = self::free($slides, $still);
        if ($free !== []) {
            $was = array_map(fn (PreparedPass $pass) => $pass->transform, $this->passes);
            $this->search($free[0], $reach, new PartProgress($progress, 0.0, 0.5));
            $again = Overlaps::pairs($this->fit->overlaps(2.5 * $this->spacing));
            $rejoint = $this->fit->together($again, $still, new PartProgress($progress, 0.5, 1.0));
            $left = $this->left($again, $rejoint, $still);
            if (count($left) < count($slides)) {
                [$pairs, $joint, $slides] = [$again, $rejoint, $left];
            } else {
                foreach ($this->passes as $k => $pass) {
                    $pass->transform = $was[$k];
                }
            }
        }
        $free = self::free($slides, $still);
        for ($sweep = 0, $far = INF; $sweep < self::SWEEPS && $far > self::BACK; $sweep++) {
            $far = 0.0;
            foreach ($free as $one) {
                $by = $this->back($one, $start);
                $far = max($far, abs($by));
                $this->move($one, $by);
            }
        }

        return ['pairs' => $pairs, 'joint' => $joint, 'slides' => $slides];
    }

    /**
     * @param  list<Slide>  $slides
     * @param  bool  $isByShape  did shape put them where they were tightened from, not a scanner or a person?
     * @param  array{float, float, float}  $origin  of the passes' common coordinates, in the project
     * @return list<string> one for those that turn and one for those that shift
     */
    public function inWords(array $slides, bool $isByShape, array $origin): array
    {
        $stay = $isByShape ? 'Shape alone put them there, so they may stand wrong' : 'They stay as they were put';
        $along = fn (array $v): string => vsprintf('(%.2f, %.2f, %.2f)', array_map(fn (float $x) => round($x, 2) + 0.0, $v));
        $notes = [];
        foreach ([true, false] as $isTurn) {
            $alike = array_values(array_filter($slides, fn (array $slide) => $slide['isTurn'] === $isTurn));
            if ($alike === []) {
                continue;
            }
            $moving = array_values(array_unique(array_merge(...array_column($alike, 'moving'))));
            sort($moving);
            $who = count($moving) > 1 && count($moving) + 1 === count($this->passes) ? 'The passes' : implode(', ', array_map(fn (int $k) => $this->passes[$k]->name, $moving));
            ['turn' => $turn, 'shift' => $shift, 'centre' => $centre] = $alike[0];
            if ($isTurn) {
                // The place nearest to the middle of those that the turn leaves where they are.
                $off = Vector3::scaled(Vector3::cross(Vector3::unit($turn), $shift), 1.0 / Vector3::length($turn));
                $at = vsprintf('(%.1f, %.1f, %.1f) mm', array_map(fn (float $c, float $d, float $o) => round($c + $d + $o, 1) + 0.0, $centre, $off, $origin));
                $notes[] = "$who can turn about the line through $at along ".$along(Vector3::unit($turn)).': what they share is round there, and any turn fits. '.$stay.'; where that matters, pick pairs or match by dots.';
            } else {
                $notes[] = "$who can slide along ".$along(Vector3::unit($shift)).' on the others: nothing that both saw holds them that way. '.$stay.'; scan a pass that sees both, pick pairs or match by dots.';
            }
        }

        return $notes;
    }

    /**
     * @param  list<Slide>  $slides
     * @param  list<int>  $still
     * @return list<Slide> those of which one side may move
     */
    private static function free(array $slides, array $still): array
    {
        return array_values(array_filter($slides, fn (array $slide) => array_intersect($slide['moving'], $still) === []));
    }

    /**
     * The motions that nothing holds, each of the passes on one side of a tie against those on the other.
     *
     * @param  list<array{int, int}>  $pairs
     * @param  Joint  $joint
     * @param  list<int>  $still
     * @return list<Slide> what is held least first
     */
    private function left(array $pairs, array $joint, array $still): array
    {
        $box = BoundingBox::of(array_merge(...array_map(fn (PreparedPass $pass) => $pass->transform->points($pass->corners()), $this->passes)));
        $centre = $box->centre();
        $arm = self::ARM * $box->diagonal();
        $slides = [];
        foreach ($this->partings($pairs, $joint) as [$moving, $others]) {
            if (array_intersect($moving, $still) !== [] && array_intersect($others, $still) === []) {
                [$moving, $others] = [$others, $moving];
            }
            $isOther = array_fill_keys($others, true);
            $a = array_fill(0, 21, 0.0);
            $weight = $tilt = 0.0;
            foreach ($pairs as $k => [$i, $j]) {
                if (isset($isOther[$i]) !== isset($isOther[$j])) {
                    foreach ($joint['pairs'][$k]['a'] as $e => $v) {
                        $a[$e] += $v;
                    }
                    $weight += $joint['pairs'][$k]['weight'];
                    $tilt += $joint['pairs'][$k]['weight'] * $joint['pairs'][$k]['tilt'];
                }
            }
            $found = SymmetricEigen::of(self::about($centre, $arm, $a), 6);
            foreach ($found['values'] as $k => $value) {
                $held = $value / max(1e-300, $weight);
                // A noisy normal seems to hold what slides across it: the normal halfway between two has half their variance, and either way across takes half of that.
                if ($held >= max(self::HELD, self::ABOVE_NOISE * 0.25 * $tilt / max(1e-300, $weight))) {
                    break;
                }
                [$x, $y, $z, $sx, $sy, $sz] = $found['vectors'][$k];
                $slides[] = [
                    'moving' => $moving, 'others' => $others, 'held' => $held, 'turn' => [$x / $arm, $y / $arm, $z / $arm], 'shift' => [$sx, $sy, $sz], 'centre' => $centre,
                    'isTurn' => self::FAR * sqrt($x * $x + $y * $y + $z * $z) > sqrt($sx * $sx + $sy * $sy + $sz * $sz),
                ];
            }
        }
        usort($slides, fn (array $one, array $other): int => $one['held'] <=> $other['held']);

        return $slides;
    }

    /**
     * The passes in two: as they would come apart at a tie, and each alone.
     *
     * @param  list<array{int, int}>  $pairs
     * @param  Joint  $joint
     * @return array<string, array{list<int>, list<int>}> the second one with the first pass
     */
    private function partings(array $pairs, array $joint): array
    {
        $partings = [];
        foreach (Overlaps::partings(count($this->passes), $pairs, array_column($joint['pairs'], 'overlap')) as ['one' => $one, 'other' => $other]) {
            $partings[implode(' ', $other)] = [$other, $one];
        }
        $all = array_keys($this->passes);
        foreach (array_slice($all, 1) as $k) {
            $partings["$k"] = [[$k], array_values(array_diff($all, [$k]))];
        }

        return $partings;
    }

    /**
     * The equations for a turn about a centre, told by how far it moves what is an arm away, and the shift of that centre.
     *
     * @param  array<int, float>  $c
     * @param  array<int, float>  $a  upper triangle, of a turn about the origin and a shift
     * @return list<float> 6*6
     */
    private static function about(array $c, float $arm, array $a): array
    {
        $w = 1.0 / $arm;
        // The shift of what lies in the origin is that of the centre, less what the turn does to it.
        $t = [
            [$w, 0.0, 0.0, 0.0, 0.0, 0.0], [0.0, $w, 0.0, 0.0, 0.0, 0.0], [0.0, 0.0, $w, 0.0, 0.0, 0.0],
            [0.0, -$c[2] * $w, $c[1] * $w, 1.0, 0.0, 0.0], [$c[2] * $w, 0.0, -$c[0] * $w, 0.0, 1.0, 0.0], [-$c[1] * $w, $c[0] * $w, 0.0, 0.0, 0.0, 1.0],
        ];
        $h = [];
        for ($r = 0; $r < 6; $r++) {
            for ($s = 0; $s < 6; $s++) {
                $sum = 0.0;
                for ($i = 0; $i < 6; $i++) {
                    for ($j = 0; $j < 6; $j++) {
                        $sum += $t[$i][$r] * $a[IcpEquations::upper($i, $j)] * $t[$j][$s];
                    }
                }
                $h[] = $sum;
            }
        }

        return $h;
    }

    /**
     * Moves what slides to where most of it lies on the others.
     *
     * @param  Slide  $slide
     */
    private function search(array $slide, float $reach, Progress $progress): void
    {
        $was = array_map(fn (PreparedPass $pass) => $pass->transform, $this->passes);
        $best = [-1, 0.0];
        for ($k = -self::PLACES; $k <= self::PLACES; $k++) {
            $by = $k * $reach / self::PLACES;
            $this->move($slide, $by);
            $tight = 0;
            foreach ($slide['moving'] as $i) {
                foreach ($slide['others'] as $j) {
                    $tight += $this->fit->lies($i, $j, 2.5 * $this->spacing)['tight'] + $this->fit->lies($j, $i, 2.5 * $this->spacing)['tight'];
                }
            }
            if ($tight > $best[0]) {
                $best = [$tight, $by];
            }
            foreach ($this->passes as $i => $pass) {
                $pass->transform = $was[$i];
            }
            $progress->advance('what slides', ($k + self::PLACES + 1) / (2 * self::PLACES + 1));
        }
        $this->move($slide, $best[1]);
    }

    /**
     * @param  Slide  $slide
     * @param  float  $mm  of it
     */
    private function move(array $slide, float $mm): void
    {
        [$cx, $cy, $cz] = $slide['centre'];
        $angle = sqrt($slide['turn'][0] ** 2 + $slide['turn'][1] ** 2 + $slide['turn'][2] ** 2);
        $by = RigidTransform::shift(-$cx, -$cy, -$cz)->then($angle > 0.0 ? RigidTransform::turn($slide['turn'], $mm * $angle) : RigidTransform::identity())
            ->then(RigidTransform::shift($cx + $mm * $slide['shift'][0], $cy + $mm * $slide['shift'][1], $cz + $mm * $slide['shift'][2]));
        foreach ($slide['moving'] as $k) {
            $pass = $this->passes[$k];
            $pass->transform = $pass->transform->then($by);
        }
    }

    /**
     * How far along a slide passes must go to stand to the others as they were put.
     *
     * @param  Slide  $slide
     * @param  list<RigidTransform>  $start
     */
    private function back(array $slide, array $start): float
    {
        $mean = function (array $which) use ($slide, $start): float {
            $sum = 0.0;
            foreach ($which as $k) {
                $here = $this->passes[$k]->transform->points($this->passes[$k]->corners());
                $there = $start[$k]->points($this->passes[$k]->corners());
                $along = $square = 0.0;
                for ($o = 0; $o < 24; $o += 3) {
                    $d = self::field($slide, array_slice($here, $o, 3));
                    for ($c = 0; $c < 3; $c++) {
                        $along += $d[$c] * ($there[$o + $c] - $here[$o + $c]);
                        $square += $d[$c] * $d[$c];
                    }
                }
                $sum += $along / max(1e-300, $square);
            }

            return $sum / max(1, count($which));
        };

        return $mean($slide['moving']) - $mean($slide['others']);
    }

    /**
     * @param  Slide  $slide
     * @param  array<int, float>  $at
     * @return array{float, float, float} how a place moves with it
     */
    private static function field(array $slide, array $at): array
    {
        [$x, $y, $z] = [$at[0] - $slide['centre'][0], $at[1] - $slide['centre'][1], $at[2] - $slide['centre'][2]];
        [$u, $v, $w] = $slide['turn'];
        [$a, $b, $c] = $slide['shift'];

        return [$v * $z - $w * $y + $a, $w * $x - $u * $z + $b, $u * $y - $v * $x + $c];
    }
}
