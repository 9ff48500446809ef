<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Linear\Horn;
use Emberstone\Core\Register\Kernel\ShapeHistograms;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/**
 * Guesses how one pass lies on another from the shape of both alone.
 *
 * Points whose surroundings look alike are paired; two such pairs, with the normals at all four ends, fix a pose. Those poses are kept
 * that many other pairs agree with. Source: sample consensus (Fischler & Bolles 1981) on pairs of oriented points (Drost et al. 2010,
 * who vote with them), matches by shape histograms (Rusu 2009).
 */
final class ShapeMatch
{
    /** Points with the most telling surroundings are compared, so many a pass. */
    private const KEYS = 900;

    /** Each point is paired with so many of the other pass that look most like it: the right one is seldom the very first. */
    private const ALIKE = 3;

    /** So often two pairs are drawn. */
    private const DRAWS = 1_000_000;

    /** So many of the poses drawn are judged, by every so manieth pair. */
    private const JUDGED = 4000;

    private const EVERY = 4;

    /**
     * @param  array<int, float>  $points  key points, flat xyz
     * @param  array<int, float>  $normals  outwards
     * @param  array<int, float>  $histograms  ShapeHistograms::BINS a key point
     */
    private function __construct(
        private readonly array $points,
        private readonly array $normals,
        private readonly array $histograms,
    ) {
    }

    /**
     * @param  array<int, float>  $p  flat xyz, evenly spread
     * @param  array<int, float>  $n  outwards
     */
    public static function of(array $p, array $n, float $radius): self
    {
        $all = ShapeHistograms::of($p, $n, $radius);
        $count = intdiv(count($p), 3);
        $bins = ShapeHistograms::BINS;
        $mean = array_fill(0, $bins, 0.0);
        foreach ($all as $k => $v) {
            $mean[$k % $bins] += $v / $count;
        }
        // Flat places look like all other flat places: what differs most from the mean tells most.
        $telling = [];
        for ($i = 0; $i < $count; $i++) {
            $d = 0.0;
            for ($c = 0, $o = $bins * $i; $c < $bins; $c++) {
                $d += ($all[$o + $c] - $mean[$c]) ** 2;
            }
            $telling[$i] = $d;
        }
        arsort($telling);
        $points = $normals = $histograms = [];
        foreach (array_slice(array_keys($telling), 0, self::KEYS) as $i) {
            array_push($points, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
            array_push($normals, $n[3 * $i], $n[3 * $i + 1], $n[3 * $i + 2]);
            array_push($histograms, ...array_slice($all, $bins * $i, $bins));
        }

        return new self($points, $normals, $histograms);
    }

    /**
     * Poses of this pass on another, the most agreed with first, no two alike.
     *
     * @param  float  $tolerance  how far apart the same place may be on both
     * @return list<array{transform: Transform, agree: int}> from this pass' coordinates to the other's
     */
    public function onto(self $other, float $tolerance, int $most): array
    {
        $pairs = $this->pairs($other);
        $count = intdiv(count($pairs), 2);
        if ($count < 3) {
            return [];
        }
        [$p, $n, $q, $m] = [[], [], [], []];
        for ($k = 0; $k < $count; $k++) {
            for ($c = 0; $c < 3; $c++) {
                $p[] = $this->points[3 * $pairs[2 * $k] + $c];
                $n[] = $this->normals[3 * $pairs[2 * $k] + $c];
                $q[] = $other->points[3 * $pairs[2 * $k + 1] + $c];
                $m[] = $other->normals[3 * $pairs[2 * $k + 1] + $c];
            }
        }
        $found = [];
        foreach (self::draws($p, $n, $q, $m, $tolerance) as [$a, $b]) {
            $pose = self::pose($p, $n, $q, $m, $a, $b);
            $found[] = ['transform' => $pose, 'agree' => self::agreeing($pose->matrix, $p, $n, $q, $m, 2.0 * $tolerance)];
        }
        usort($found, fn (array $a, array $b) => $b['agree'] <=> $a['agree']);

        return self::distinct($found, $p, $tolerance, $most);
    }

    /**
     * Each point of either with the points of the other that look most like it.
     *
     * @return list<int> indices, this and the other's in turn
     */
    private function pairs(self $other): array
    {
        $bins = ShapeHistograms::BINS;
        $a = $this->histograms;
        $b = $other->histograms;
        $na = count($a);
        $nb = count($b);
        // The ALIKE least distances of each point, the least first, and whom they are to.
        $leastB = array_fill(0, self::ALIKE * intdiv($nb, $bins), INF);
        $alikeB = array_fill(0, self::ALIKE * intdiv($nb, $bins), -1);
        $leastA = array_fill(0, self::ALIKE * intdiv($na, $bins), INF);
        $alikeA = array_fill(0, self::ALIKE * intdiv($na, $bins), -1);
        for ($i = 0, $at = 0; $at < $na; $i++, $at += $bins) {
            $lastA = self::ALIKE * $i + self::ALIKE - 1;
            for ($j = 0, $o = 0; $o < $nb; $j++, $o += $bins) {
                $lastB = self::ALIKE * $j + self::ALIKE - 1;
                $cut = $leastB[$lastB] > $leastA[$lastA] ? $leastB[$lastB] : $leastA[$lastA];
                $d = 0.0;
                for ($c = 0; $c < $bins; $c += 11) {
                    for ($e = $c + 11, $k = $c; $k < $e; $k++) {
                        $x = $a[$at + $k] - $b[$o + $k];
                        $d += $x * $x;
                    }
                    if ($d >= $cut) {
                        continue 2;
                    }
                }
                if ($d < $leastA[$lastA]) {
                    for ($k = $lastA; $k > $lastA - self::ALIKE + 1 && $leastA[$k - 1] > $d; $k--) {
                        $leastA[$k] = $leastA[$k - 1];
                        $alikeA[$k] = $alikeA[$k - 1];
                    }
                    $leastA[$k] = $d;
                    $alikeA[$k] = $j;
                }
                if ($d < $leastB[$lastB]) {
                    for ($k = $lastB; $k > $lastB - self::ALIKE + 1 && $leastB[$k - 1] > $d; $k--) {
                        $leastB[$k] = $leastB[$k - 1];
                        $alikeB[$k] = $alikeB[$k - 1];
                    }
                    $leastB[$k] = $d;
                    $alikeB[$k] = $i;
                }
            }
        }
        $pairs = [];
        foreach ($alikeA as $k => $j) {
            $pairs[intdiv($k, self::ALIKE) << 32 | $j] = $j >= 0;
        }
        foreach ($alikeB as $k => $i) {
            $pairs[$i << 32 | intdiv($k, self::ALIKE)] = $i >= 0;
        }
        $flat = [];
        foreach (array_keys(array_filter($pairs)) as $pair) {
            $flat[] = $pair >> 32;
            $flat[] = $pair & 0xFFFFFFFF;
        }

        return $flat;
    }

    /**
     * Two pairs at a time that could both be right: as far apart here as there, their normals at the same angles.
     *
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  list<float>  $q
     * @param  list<float>  $m
     * @return list<array{int, int}> offsets of pairs
     */
    private static function draws(array $p, array $n, array $q, array $m, float $tolerance): array
    {
        $count = intdiv(count($p), 3);
        $random = new Randomizer(new Xoshiro256StarStar(1902));
        $drawn = [];
        $least = 9.0 * $tolerance * $tolerance;
        for ($k = 0; $k < self::DRAWS && count($drawn) < self::JUDGED; $k++) {
            $a = 3 * $random->getInt(0, $count - 1);
            $b = 3 * $random->getInt(0, $count - 1);
            $dx = $p[$b] - $p[$a];
            $dy = $p[$b + 1] - $p[$a + 1];
            $dz = $p[$b + 2] - $p[$a + 2];
            $d = $dx * $dx + $dy * $dy + $dz * $dz;
            $ex = $q[$b] - $q[$a];
            $ey = $q[$b + 1] - $q[$a + 1];
            $ez = $q[$b + 2] - $q[$a + 2];
            $e = $ex * $ex + $ey * $ey + $ez * $ez;
            if ($d < $least || $e < $least) {
                continue;
            }
            $d = sqrt($d);
            $e = sqrt($e);
            if ($d - $e > $tolerance || $e - $d > $tolerance) {
                continue;
            }
            $d = 1.0 / $d;
            $e = 1.0 / $e;
            $off = ($n[$a] * $dx + $n[$a + 1] * $dy + $n[$a + 2] * $dz) * $d - ($m[$a] * $ex + $m[$a + 1] * $ey + $m[$a + 2] * $ez) * $e;
            if ($off > 0.15 || $off < -0.15) {
                continue;
            }
            $off = ($n[$b] * $dx + $n[$b + 1] * $dy + $n[$b + 2] * $dz) * $d - ($m[$b] * $ex + $m[$b + 1] * $ey + $m[$b + 2] * $ez) * $e;
            if ($off > 0.15 || $off < -0.15) {
                continue;
            }
            $off = $n[$a] * $n[$b] + $n[$a + 1] * $n[$b + 1] + $n[$a + 2] * $n[$b + 2] - $m[$a] * $m[$b] - $m[$a + 1] * $m[$b + 1] - $m[$a + 2] * $m[$b + 2];
            if ($off > 0.2 || $off < -0.2) {
                continue;
            }
            // Normals that both lie along the way from one to the other leave the turn around it open.
            if (abs($n[$a] * $dx + $n[$a + 1] * $dy + $n[$a + 2] * $dz) * $d > 0.97 && abs($n[$b] * $dx + $n[$b + 1] * $dy + $n[$b + 2] * $dz) * $d > 0.97) {
                continue;
            }
            $drawn[] = [$a, $b];
        }

        return $drawn;
    }

    /**
     * The pose by which two places and their normals come nearest to their partners.
     *
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  list<float>  $q
     * @param  list<float>  $m
     */
    private static function pose(array $p, array $n, array $q, array $m, int $a, int $b): Transform
    {
        // Normals count as points an arm's length from their feet.
        $arm = 0.5 * sqrt(($p[$b] - $p[$a]) ** 2 + ($p[$b + 1] - $p[$a + 1]) ** 2 + ($p[$b + 2] - $p[$a + 2]) ** 2);
        $from = $to = [];
        foreach ([$a, $b] as $o) {
            array_push($from, $p[$o], $p[$o + 1], $p[$o + 2], $p[$o] + $arm * $n[$o], $p[$o + 1] + $arm * $n[$o + 1], $p[$o + 2] + $arm * $n[$o + 2]);
            array_push($to, $q[$o], $q[$o + 1], $q[$o + 2], $q[$o] + $arm * $m[$o], $q[$o + 1] + $arm * $m[$o + 1], $q[$o + 2] + $arm * $m[$o + 2]);
        }

        return Horn::fit($from, $to);
    }

    /**
     * @param  array<int, float>  $t  the pose's matrix
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  list<float>  $q
     * @param  list<float>  $m
     */
    private static function agreeing(array $t, array $p, array $n, array $q, array $m, float $tolerance): int
    {
        [$t0, $t1, $t2, $t3, $t4, $t5, $t6, $t7, $t8, $t9, $t10, $t11] = $t;
        $most = $tolerance * $tolerance;
        $agree = 0;
        for ($o = 0, $e = count($p); $o < $e; $o += 3 * self::EVERY) {
            $x = $p[$o];
            $y = $p[$o + 1];
            $z = $p[$o + 2];
            $dx = $t0 * $x + $t1 * $y + $t2 * $z + $t3 - $q[$o];
            $dy = $t4 * $x + $t5 * $y + $t6 * $z + $t7 - $q[$o + 1];
            $dz = $t8 * $x + $t9 * $y + $t10 * $z + $t11 - $q[$o + 2];
            if ($dx * $dx + $dy * $dy + $dz * $dz > $most) {
                continue;
            }
            $x = $n[$o];
            $y = $n[$o + 1];
            $z = $n[$o + 2];
            if (($t0 * $x + $t1 * $y + $t2 * $z) * $m[$o] + ($t4 * $x + $t5 * $y + $t6 * $z) * $m[$o + 1] + ($t8 * $x + $t9 * $y + $t10 * $z) * $m[$o + 2] > 0.8) {
                $agree++;
            }
        }

        return $agree;
    }

    /**
     * @param  list<array{transform: Transform, agree: int}>  $found  the most agreed with first
     * @param  list<float>  $p
     * @return list<array{transform: Transform, agree: int}>
     */
    private static function distinct(array $found, array $p, float $tolerance, int $most): array
    {
        // Two poses are alike when they bring four points of the pass to nearly the same places.
        $probe = [];
        for ($k = 0, $n = intdiv(count($p), 3); $k < 4; $k++) {
            array_push($probe, ...array_slice($p, 3 * intdiv($k * ($n - 1), 3), 3));
        }
        $kept = $places = [];
        foreach ($found as $one) {
            $at = $one['transform']->points($probe);
            foreach ($places as $place) {
                $d = 0.0;
                foreach ($at as $k => $v) {
                    $d = max($d, abs($v - $place[$k]));
                }
                if ($d < 4.0 * $tolerance) {
                    continue 2;
                }
            }
            $kept[] = $one;
            $places[] = $at;
            if (count($kept) === $most) {
                break;
            }
        }

        return $kept;
    }
}
