<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Fixture;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Horn;
use Emberstone\Core\Algorithms\Linear\SymmetricEigen;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Register\PoseDistance;

/**
 * The pose that brings what one head found of a target onto it.
 *
 * Three features fix a pose: any of balls, by their centres, and flat faces, by their planes. Those threes that lie to each other as three of the target are tried; the pose on which most
 * features agree is taken, and is then the least squares over all points of all of them at once.
 *
 * @internal
 *
 * @phpstan-type Ball array{centre: array{float, float, float}, points: list<float>, rms: float}
 * @phpstan-type Plane array{origin: array{float, float, float}, normal: array{float, float, float}, points: list<float>, rms: float}
 * @phpstan-type Agreed array{balls: list<array{int, int}>, planes: list<array{int, int}>}
 */
final readonly class FixturePose
{
    /** A feature may be so far from where the target says, mm, and a plane turned by so much (cosine), before the pose is refined. */
    private const MATCH_MM = 1.5;

    private const MATCH_TURN = 0.9994;

    /** Three balls with less area than this share of their largest distance squared lie nearly in a line; planes that turn less than this sine against each other are nearly parallel. */
    private const THIN = 0.05;

    private const PARALLEL = 0.15;

    /** Multiples of MATCH_MM: poses that bring the places of the target farther apart are different. */
    private const APART = 3.0;

    /** A motion is left open when all points together hold it less than this share of a single one at the target's rim would. */
    private const OPEN = 0.05;

    /** Features of each kind that are tried, those with the most points. */
    private const TRIED = 10;

    /** Features that must agree, by the number of balls among them: three planes alone agree by chance too easily. */
    private const LEAST = [4, 3, 3, 3];

    /**
     * @param  list<Ball>  $balls  found, those with the most points first
     * @param  list<Plane>  $planes  found, those with the most points first
     */
    public function __construct(
        private array $balls,
        private array $planes,
        private FixtureTarget $target,
    ) {
    }

    /** @return array{pose: RigidTransform, balls: int, planes: int, rms: float, ways: int}|null null when too few features agree; ways: in how many that differ they do, of which the best is given */
    public function found(): ?array
    {
        $best = null;
        $others = [];
        foreach ([3, 2, 1, 0] as $balls) {
            foreach ($this->byBalls($balls) as $pose) {
                $agreed = $this->agreeing($pose);
                $many = count($agreed['balls']) + count($agreed['planes']);
                if ($many < self::LEAST[min(3, count($agreed['balls']))]) {
                    continue;
                }
                if ($best === null || $many > $best['many']) {
                    [$best, $others] = [['many' => $many, 'pose' => $pose, 'agreed' => $agreed], []];
                } elseif ($many === $best['many'] && $agreed !== $best['agreed']) {
                    $others[serialize($agreed)] = ['pose' => $pose, 'agreed' => $agreed];
                }
            }
            // Balls tell each other apart better than planes do.
            if ($best !== null && count($best['agreed']['balls']) >= $balls) {
                break;
            }
        }
        $ways = [];
        foreach ($best === null ? [] : [$best, ...array_values($others)] as $one) {
            $way = $this->settled($one['pose'], $one['agreed']);
            if ($way === null) {
                continue;
            }
            foreach ($ways as $known) {
                if ($this->isAlike($known['pose'], $way['pose'])) {
                    continue 2;
                }
            }
            $ways[] = $way;
        }
        // The same features the other way round, as on a target that looks the same from two sides, are another way.
        $most = max([0, ...array_map(fn (array $way) => $way['balls'] + $way['planes'], $ways)]);
        $ways = array_values(array_filter($ways, fn (array $way) => $most === $way['balls'] + $way['planes']));
        usort($ways, fn (array $a, array $b) => $a['rms'] <=> $b['rms']);

        return $ways === [] ? null : [...$ways[0], 'ways' => count($ways)];
    }

    /**
     * A pose refined, with the features that agree then: by three alone it is rough, and others seem off.
     *
     * @param  Agreed  $agreed
     * @return array{pose: RigidTransform, balls: int, planes: int, rms: float}|null null where the features leave a motion open
     */
    private function settled(RigidTransform $pose, array $agreed): ?array
    {
        $refined = $this->refined($pose, $agreed);

        return $refined === null ? null : $this->refined($refined['pose'], $this->agreeing($refined['pose'])) ?? $refined;
    }

    private function isAlike(RigidTransform $a, RigidTransform $b): bool
    {
        $reach = $this->target->reach();
        $middle = $this->target->middle();
        $corners = [];
        for ($k = 0; $k < 8; $k++) {
            array_push($corners, $middle[0] + ($k & 1 ? $reach : -$reach), $middle[1] + ($k & 2 ? $reach : -$reach), $middle[2] + ($k & 4 ? $reach : -$reach));
        }

        // Seen from the target, where the head is far away.
        return PoseDistance::apart($a->inverse()->then($b), RigidTransform::identity(), $corners) < self::APART * self::MATCH_MM;
    }

    /**
     * Poses by a number of balls and, with them, as many planes as make three.
     *
     * @return iterable<RigidTransform>
     */
    private function byBalls(int $many): iterable
    {
        foreach (self::choices(min(self::TRIED, count($this->balls)), $many) as $balls) {
            foreach ($this->partners($balls, count($this->target->balls), fn (array $these, array $those) => $this->ballsFit($these, $those)) as $onBalls) {
                foreach (self::choices(min(self::TRIED, count($this->planes)), 3 - $many) as $planes) {
                    foreach ($this->partners($planes, count($this->target->planes), fn (array $these, array $those) => $this->planesFit($these, $those, $balls, $onBalls)) as $onPlanes) {
                        $pose = $this->posed($balls, $onBalls, $planes, $onPlanes);
                        if ($pose !== null) {
                            yield $pose;
                        }
                    }
                }
            }
        }
    }

    /**
     * All ways to choose a number of things from the first n, in rising order.
     *
     * @return iterable<list<int>>
     */
    private static function choices(int $n, int $many, int $from = 0): iterable
    {
        if ($many === 0) {
            yield [];

            return;
        }
        for ($k = $from; $k < $n; $k++) {
            foreach (self::choices($n, $many - 1, $k + 1) as $rest) {
                yield [$k, ...$rest];
            }
        }
    }

    /**
     * Features of the target that these found ones may be, in the same order.
     *
     * @param  list<int>  $found
     * @param  callable(list<int>, list<int>): bool  $fits  told of the first of these and those: does the last one lie to the others as it should?
     * @param  list<int>  $chosen
     * @return iterable<list<int>>
     */
    private function partners(array $found, int $of, callable $fits, array $chosen = []): iterable
    {
        if (count($chosen) === count($found)) {
            yield $chosen;

            return;
        }
        for ($k = 0; $k < $of; $k++) {
            $more = [...$chosen, $k];
            if (! in_array($k, $chosen, true) && $fits(array_slice($found, 0, count($more)), $more)) {
                yield from $this->partners($found, $of, $fits, $more);
            }
        }
    }

    /**
     * Is the last of these balls as far from the others as on the target?
     *
     * @param  list<int>  $these
     * @param  list<int>  $those
     */
    private function ballsFit(array $these, array $those): bool
    {
        $last = count($these) - 1;
        for ($k = 0; $k < $last; $k++) {
            $here = Vector3::length(Vector3::minus($this->balls[$these[$k]]['centre'], $this->balls[$these[$last]]['centre']));
            $there = Vector3::length(Vector3::minus($this->target->balls[$those[$k]], $this->target->balls[$those[$last]]));
            if (abs($here - $there) > self::MATCH_MM) {
                return false;
            }
        }

        return true;
    }

    /**
     * Does the last of these planes turn against the others as on the target, and stand as far from the balls?
     *
     * @param  list<int>  $these
     * @param  list<int>  $those
     * @param  list<int>  $balls
     * @param  list<int>  $onBalls
     */
    private function planesFit(array $these, array $those, array $balls, array $onBalls): bool
    {
        $last = count($these) - 1;
        [$here, $there] = [$this->planes[$these[$last]], $this->target->planes[$those[$last]]];
        for ($k = 0; $k < $last; $k++) {
            $turn = Vector3::dot($this->planes[$these[$k]]['normal'], $here['normal']);
            $asked = Vector3::dot($this->target->planes[$those[$k]]['normal'], $there['normal']);
            if (abs(acos(max(-1.0, min(1.0, $turn))) - acos(max(-1.0, min(1.0, $asked)))) > acos(self::MATCH_TURN)) {
                return false;
            }
        }
        foreach ($balls as $k => $ball) {
            $above = Vector3::dot($here['normal'], Vector3::minus($this->balls[$ball]['centre'], $here['origin']));
            if (abs($above - Vector3::dot($there['normal'], Vector3::minus($this->target->balls[$onBalls[$k]], $there['at']))) > self::MATCH_MM) {
                return false;
            }
        }

        return true;
    }

    /**
     * The pose by three features and their partners; null where they leave a motion open.
     *
     * @param  list<int>  $balls
     * @param  list<int>  $onBalls
     * @param  list<int>  $planes
     * @param  list<int>  $onPlanes
     */
    private function posed(array $balls, array $onBalls, array $planes, array $onPlanes): ?RigidTransform
    {
        $here = array_map(fn (int $k) => $this->balls[$k]['centre'], $balls);
        $there = array_map(fn (int $k) => $this->target->balls[$k], $onBalls);
        if (count($here) === 3) {
            $sides = array_map(fn (int $k) => Vector3::minus($there[$k], $there[($k + 1) % 3]), [0, 1, 2]);
            if (0.5 * Vector3::length(Vector3::cross($sides[0], $sides[1])) < self::THIN * max(array_map(Vector3::length(...), $sides)) ** 2) {
                return null;
            }

            return Horn::fit(array_merge(...$here), array_merge(...$there));
        }
        // What must come to point the same way: normals, and the way from one ball to the other.
        $ways = array_map(fn (int $k) => $this->planes[$k]['normal'], $planes);
        $asked = array_map(fn (int $k) => $this->target->planes[$k]['normal'], $onPlanes);
        if (count($here) === 2) {
            $ways[] = Vector3::unit(Vector3::minus($here[1], $here[0]));
            $asked[] = Vector3::unit(Vector3::minus($there[1], $there[0]));
        }
        if (Vector3::length(Vector3::cross($asked[0], $asked[1])) < self::PARALLEL || (isset($asked[2]) && abs(Vector3::dot($asked[2], Vector3::cross($asked[0], $asked[1]))) < self::PARALLEL)) {
            return null;
        }
        // Both ways round, the best turn of directions is that of points about a middle that stays.
        $both = fn (array $directions): array => array_merge(...array_map(fn (array $d) => [...$d, ...Vector3::scaled($d, -1.0)], $directions));
        $turn = Horn::fit($both($ways), $both($asked));
        // Then the shift: balls ask for it along all three axes, planes along their normal.
        $h = array_fill(0, 9, 0.0);
        $g = [0.0, 0.0, 0.0];
        $ask = function (array $along, float $far) use (&$h, &$g): void {
            for ($r = 0; $r < 3; $r++) {
                $g[$r] += $along[$r] * $far;
                for ($c = 0; $c < 3; $c++) {
                    $h[3 * $r + $c] += $along[$r] * $along[$c];
                }
            }
        };
        foreach ($here as $k => $centre) {
            foreach ([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]] as $c => $axis) {
                $ask($axis, $there[$k][$c] - $turn->point($centre)[$c]);
            }
        }
        foreach ($planes as $k => $plane) {
            $on = $this->target->planes[$onPlanes[$k]];
            $ask($on['normal'], Vector3::dot($on['normal'], Vector3::minus($on['at'], $turn->point($this->planes[$plane]['origin']))));
        }
        [$x, $y, $z] = Dense::step($h, $g, 3);

        return $turn->then(RigidTransform::shift($x, $y, $z));
    }

    /** @return Agreed which found feature is which of the target where a pose puts it */
    private function agreeing(RigidTransform $pose): array
    {
        $agreed = ['balls' => [], 'planes' => []];
        $taken = [];
        foreach ($this->balls as $k => $ball) {
            $at = $pose->point($ball['centre']);
            foreach ($this->target->balls as $t => $centre) {
                if (! isset($taken[$t]) && Vector3::length(Vector3::minus($at, $centre)) < self::MATCH_MM) {
                    $agreed['balls'][] = [$k, $t];
                    $taken[$t] = true;
                    break;
                }
            }
        }
        $taken = [];
        foreach ($this->planes as $k => $plane) {
            $at = $pose->point($plane['origin']);
            $normal = $pose->directions($plane['normal']);
            foreach ($this->target->planes as $t => $on) {
                if (! isset($taken[$t]) && $normal[0] * $on['normal'][0] + $normal[1] * $on['normal'][1] + $normal[2] * $on['normal'][2] > self::MATCH_TURN && abs(Vector3::dot($on['normal'], Vector3::minus($at, $on['at']))) < self::MATCH_MM) {
                    $agreed['planes'][] = [$k, $t];
                    $taken[$t] = true;
                    break;
                }
            }
        }

        return $agreed;
    }

    /**
     * Least squares over all points of the features that agree: balls by their distance from the centre, planes by their height over them (Gauss-Newton).
     *
     * @param  Agreed  $agreed
     * @return array{pose: RigidTransform, balls: int, planes: int, rms: float}|null null where the features leave a motion open
     */
    private function refined(RigidTransform $pose, array $agreed): ?array
    {
        $middle = $this->target->middle();
        $reach = $this->target->reach();
        $rms = 0.0;
        for ($round = 0; $round < 20; $round++) {
            $h = array_fill(0, 36, 0.0);
            $g = array_fill(0, 6, 0.0);
            $squares = 0.0;
            $many = 0;
            $add = function (float $x, float $y, float $z, float $nx, float $ny, float $nz, float $e) use (&$h, &$g, &$squares, &$many, $middle, $reach): void {
                // Turns about the middle, as long as they move things at the target's rim: eigenvalues can be compared then.
                [$x, $y, $z] = [($x - $middle[0]) / $reach, ($y - $middle[1]) / $reach, ($z - $middle[2]) / $reach];
                $j = [$y * $nz - $z * $ny, $z * $nx - $x * $nz, $x * $ny - $y * $nx, $nx, $ny, $nz];
                for ($r = 0; $r < 6; $r++) {
                    $g[$r] -= $j[$r] * $e;
                    for ($c = 0; $c < 6; $c++) {
                        $h[6 * $r + $c] += $j[$r] * $j[$c];
                    }
                }
                $squares += $e * $e;
                $many++;
            };
            foreach ($agreed['balls'] as [$k, $t]) {
                $placed = $pose->points($this->balls[$k]['points']);
                [$cx, $cy, $cz] = $this->target->balls[$t];
                for ($o = 0, $m = count($placed); $o < $m; $o += 3) {
                    [$x, $y, $z] = [$placed[$o], $placed[$o + 1], $placed[$o + 2]];
                    $l = sqrt(($x - $cx) ** 2 + ($y - $cy) ** 2 + ($z - $cz) ** 2) ?: 1e-12;
                    $add($x, $y, $z, ($x - $cx) / $l, ($y - $cy) / $l, ($z - $cz) / $l, $l - $this->target->radius);
                }
            }
            foreach ($agreed['planes'] as [$k, $t]) {
                $placed = $pose->points($this->planes[$k]['points']);
                ['at' => $at, 'normal' => [$nx, $ny, $nz]] = $this->target->planes[$t];
                for ($o = 0, $m = count($placed); $o < $m; $o += 3) {
                    [$x, $y, $z] = [$placed[$o], $placed[$o + 1], $placed[$o + 2]];
                    $add($x, $y, $z, $nx, $ny, $nz, ($x - $at[0]) * $nx + ($y - $at[1]) * $ny + ($z - $at[2]) * $nz);
                }
            }
            if ($round === 0) {
                if (SymmetricEigen::of($h, 6)['values'][0] < self::OPEN) {
                    return null;
                }
            }
            $step = Dense::step($h, $g, 6);
            $turn = array_map(fn (float $v) => $v / $reach, array_slice($step, 0, 3));
            $pose = $pose->then(RigidTransform::shift(-$middle[0], -$middle[1], -$middle[2]))->then(RigidTransform::turn($turn, Vector3::length($turn)))->then(RigidTransform::shift($middle[0] + $step[3], $middle[1] + $step[4], $middle[2] + $step[5]));
            $rms = sqrt($squares / max(1, $many));
            if (max(array_map(abs(...), $step)) < 1e-10) {
                break;
            }
        }

        return ['pose' => $pose, 'balls' => count($agreed['balls']), 'planes' => count($agreed['planes']), 'rms' => $rms];
    }
}
