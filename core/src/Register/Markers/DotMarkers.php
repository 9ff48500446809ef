<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Markers;

use Emberstone\Core\Algorithms\Linear\Horn;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Algorithms\Search\Clusters;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * Marker dots in captures, white discs in black rings, found by their colour; and poses from their constellations.
 */
final class DotMarkers
{
    /** Brightness of white and of black, 0 to 255. */
    private const WHITE = 190;

    private const BLACK = 80;

    private const LEAST_POINTS = 5;

    /** The share of the points around a disc that must be black: less is glare, or a dot cut off at the rim of what was seen. */
    private const RING = 0.55;

    /** The spread across a disc is no less than this of that along it, squared: others were cut off, and their middles are not the dots'. */
    private const ROUND = 0.6;

    /** Distances between dots agree to this share of the tolerance. */
    private const SHARP = 0.5;

    /** So many dots that agree, and they the most of those seen, need no other triple. */
    private const PLENTY = 8;

    /** Nearest dots, of which pairs are tried with each dot. */
    private const NEAREST = 6;

    /**
     * @return list<array{float, float, float}> middles of the dots, in the coordinates of the cloud
     */
    public static function find(PointCloud $cloud, float $diameter): array
    {
        if ($cloud->colours === []) {
            return [];
        }
        $white = $black = [];
        foreach ($cloud->colours as $i => $colour) {
            $bright = 0.299 * ($colour >> 16 & 255) + 0.587 * ($colour >> 8 & 255) + 0.114 * ($colour & 255);
            if ($bright >= self::WHITE) {
                $white[] = $i;
            } elseif ($bright <= self::BLACK) {
                $black[] = $i;
            }
        }
        if (count($white) < self::LEAST_POINTS) {
            return [];
        }
        $p = $cloud->positions;
        $of = function (array $indices) use ($p): array {
            $some = [];
            foreach ($indices as $i) {
                array_push($some, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
            }

            return $some;
        };
        $spacing = PointGrid::of($p)->medianSpacing(500);
        ['label' => $label, 'size' => $size] = Clusters::of($of($white), 3.0 * $spacing);
        $dark = $black === [] ? null : PointGrid::of($of($black), 2.0 * $diameter);
        $dots = [];
        foreach ($size as $cluster => $many) {
            if ($many < self::LEAST_POINTS) {
                break;
            }
            $members = $of(array_map(fn (int $k) => $white[$k], array_keys($label, $cluster, true)));
            $box = BoundingBox::of($members);
            $axes = Symmetric3::ofPoints($members);
            // A disc is as wide as long; its diameter is four times the deviation along either way.
            $across = 4.0 * sqrt($axes['values'][2]);
            if ($box->diagonal() > 2.0 * $diameter || $axes['values'][1] < self::ROUND * $axes['values'][2] || $across < 0.7 * $diameter || $across > 1.35 * $diameter) {
                continue;
            }
            if ($dark !== null && self::ringed($dark->sorted, $axes['centre'], $axes['vectors'], $diameter)) {
                $dots[] = $axes['centre'];
            }
        }

        return $dots;
    }

    /**
     * Whether black lies all around: in eight sectors of the disc's plane, most hold a black point.
     *
     * @param  array<int, float>  $black
     * @param  array{float, float, float}  $centre
     * @param  list<array{float, float, float}>  $axes
     */
    private static function ringed(array $black, array $centre, array $axes, float $diameter): bool
    {
        [, $u, $v] = $axes;
        $sectors = [];
        $far = $diameter * $diameter;
        for ($o = 0, $e = count($black); $o < $e; $o += 3) {
            $x = $black[$o] - $centre[0];
            $y = $black[$o + 1] - $centre[1];
            $z = $black[$o + 2] - $centre[2];
            if ($x * $x + $y * $y + $z * $z < $far) {
                $sectors[(int) floor(4.0 + 4.0 * atan2($x * $v[0] + $y * $v[1] + $z * $v[2], $x * $u[0] + $y * $u[1] + $z * $u[2]) / M_PI) & 7] = true;
            }
        }

        return count($sectors) >= 8 * self::RING;
    }

    /**
     * The pose that brings most dots of one capture onto dots that stand: triples with the same distances between them, the pose of each judged by how
     * many other dots it brings home. Missing and false dots do not matter.
     *
     * @param  list<array{float, float, float}>  $dots
     * @param  list<array{float, float, float}>  $placed
     * @param  float  $tolerance  between a dot and its partner, mm
     * @return array{pose: RigidTransform, agree: int, rms: float, rival: int}|null null when no three agree; rival: dots that the best other pose brings home
     */
    public static function pose(array $dots, array $placed, float $tolerance): ?array
    {
        $apart = fn (array $a, array $b): float => sqrt(($a[0] - $b[0]) ** 2 + ($a[1] - $b[1]) ** 2 + ($a[2] - $b[2]) ** 2);
        // Dots near each other are seen together: triples of a dot and two of its nearest.
        $triples = [];
        $longest = 0.0;
        foreach ($dots as $i => $dot) {
            $near = array_map(fn (array $other) => $apart($dot, $other), $dots);
            asort($near);
            $near = array_slice(array_keys($near), 1, self::NEAREST);
            foreach ($near as $at => $j) {
                foreach (array_slice($near, $at + 1) as $k) {
                    $key = [$i, $j, $k];
                    sort($key);
                    $triples[implode(' ', $key)] = [$dots[$key[0]], $dots[$key[1]], $dots[$key[2]]];
                    $longest = max($longest, $apart($dots[$key[0]], $dots[$key[1]]));
                }
            }
        }
        // Pairs that stand, by their distance.
        $byLength = [];
        foreach ($placed as $a => $p) {
            foreach ($placed as $b => $q) {
                $d = $a === $b ? INF : $apart($p, $q);
                if ($d <= $longest + $tolerance) {
                    $byLength[(int) floor($d / (self::SHARP * $tolerance))][] = [$a, $b];
                }
            }
        }
        $found = [];
        // Middles lie better than the poses they give: distances between them agree to a part of the tolerance.
        foreach ($triples as $three) {
            self::fromTriple($three, $placed, $byLength, $tolerance, $dots, $found, $apart);
            $most = $found === [] ? 0 : max(array_column($found, 'agree'));
            if ($most >= self::PLENTY && 2 * $most > count($dots)) {
                break;
            }
        }
        usort($found, fn (array $a, array $b) => $b['agree'] <=> $a['agree'] ?: $a['rms'] <=> $b['rms']);
        if ($found === []) {
            return null;
        }
        $best = $found[0];
        $rival = 0;
        foreach ($found as $other) {
            $far = 0.0;
            foreach ($dots as $dot) {
                $far = max($far, $apart($best['pose']->point($dot), $other['pose']->point($dot)));
            }
            if ($far > 6.0 * $tolerance) {
                $rival = $other['agree'];
                break;
            }
        }

        return $best + ['rival' => $rival];
    }

    /**
     * @param  list<array{float, float, float}>  $three
     * @param  list<array{float, float, float}>  $placed
     * @param  array<int, list<array{int, int}>>  $byLength
     * @param  list<array{float, float, float}>  $dots
     * @param  list<array{pose: RigidTransform, agree: int, rms: float}>  $found  (changed)
     * @param  callable(array{float, float, float}, array{float, float, float}): float  $apart
     */
    private static function fromTriple(array $three, array $placed, array $byLength, float $tolerance, array $dots, array &$found, callable $apart): void
    {
        [$ab, $ac, $bc] = [$apart($three[0], $three[1]), $apart($three[0], $three[2]), $apart($three[1], $three[2])];
        $longest = max($ab, $ac, $bc);
        $s = 0.5 * ($ab + $ac + $bc);
        // Three nearly in a line leave a turn open.
        if (sqrt(max(0.0, $s * ($s - $ab) * ($s - $ac) * ($s - $bc))) < 0.1 * $longest * $longest) {
            return;
        }
        $sharp = self::SHARP * $tolerance;
        $bucket = (int) floor($ab / $sharp);
        for ($near = $bucket - 1; $near <= $bucket + 1; $near++) {
            foreach ($byLength[$near] ?? [] as [$a, $b]) {
                if (abs($apart($placed[$a], $placed[$b]) - $ab) > $sharp) {
                    continue;
                }
                foreach ($placed as $c => $third) {
                    if ($c === $a || $c === $b || abs($apart($placed[$a], $third) - $ac) > $sharp || abs($apart($placed[$b], $third) - $bc) > $sharp) {
                        continue;
                    }
                    $pose = Horn::fit(array_merge(...$three), [...$placed[$a], ...$placed[$b], ...$third]);
                    $refined = self::agreeing($pose, $dots, $placed, $tolerance);
                    if ($refined !== null) {
                        $found[] = $refined;
                    }
                }
            }
        }
    }

    /**
     * @param  list<array{float, float, float}>  $dots
     * @param  list<array{float, float, float}>  $placed
     * @return array{pose: RigidTransform, agree: int, rms: float}|null
     */
    private static function agreeing(RigidTransform $pose, array $dots, array $placed, float $tolerance): ?array
    {
        for ($round = 0; ; $round++) {
            $from = $to = [];
            $squares = 0.0;
            foreach ($dots as $dot) {
                [$x, $y, $z] = $pose->point($dot);
                // A pose from three dots close together is rough at the others: they are looked for farther off at first.
                $best = ((3 - $round) * $tolerance) ** 2;
                $partner = null;
                foreach ($placed as $q) {
                    $d = ($x - $q[0]) ** 2 + ($y - $q[1]) ** 2 + ($z - $q[2]) ** 2;
                    if ($d < $best) {
                        $best = $d;
                        $partner = $q;
                    }
                }
                if ($partner !== null) {
                    array_push($from, ...$dot);
                    array_push($to, ...$partner);
                    $squares += $best;
                }
            }
            $agree = intdiv(count($from), 3);
            if ($agree < 3) {
                return null;
            }
            if ($round === 2) {
                return ['pose' => $pose, 'agree' => $agree, 'rms' => sqrt($squares / $agree)];
            }
            $pose = Horn::fit($from, $to);
        }
    }
}
