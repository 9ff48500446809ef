<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Icp;

/**
 * The poses that most of many pairs of oriented points, most of them wrong, agree on.
 *
 * Two pairs, with the normals at all four ends, fix a pose. Source: sample consensus (Fischler & Bolles 1981) on pairs of oriented points (Drost et al. 2010, who vote with them);
 * few pairs tell most of the wrong poses (preemption, Nister 2005).
 *
 * @internal
 */
final readonly class PoseRansac
{
    /** So often two pairs are drawn. */
    private const DRAWS = 1_000_000;

    /** Number of poses that are judged at a glance, by one pair in GLANCE. */
    private const JUDGED = 4000;

    /** Pairs of which one is looked at, at a glance. */
    private const GLANCE = 24;

    /** Factor: poses that are judged with more care, over those that are asked for. */
    private const BEST = 2;

    /** Pairs of which one is looked at with more care. */
    private const EVERY = 4;

    /** Tolerances: poses that bring four points of a pass no farther apart are the same. */
    private const ALIKE = 4.0;

    /**
     * @param  list<float>  $p  points of one pass, flat xyz
     * @param  list<float>  $n  their unit normals
     * @param  list<float>  $q  the point of the other that each is paired with
     * @param  list<float>  $m  their unit normals
     * @param  float  $tolerance  how far apart the same place may be on both
     */
    public function __construct(
        private array $p,
        private array $n,
        private array $q,
        private array $m,
        private float $tolerance,
    ) {
    }

    /** @return list<list<float>> from the one pass to the other, 4x4 row by row, the most agreed with first, no two alike */
    public function best(int $most): array
    {
        if (count($this->p) < 9) {
            return [];
        }
        $glance = $this->every(self::GLANCE);
        $agree = $poses = [];
        foreach ($this->draws() as [$a, $b]) {
            $pose = $this->pose($a, $b);
            if ($pose !== null) {
                $agree[] = $this->agreeing($pose, $glance);
                $poses[] = $pose;
            }
        }
        arsort($agree);
        $some = $this->every(self::EVERY);
        $closely = [];
        foreach ($this->distinct($poses, array_keys($agree), self::BEST * $most) as $k) {
            $closely[$k] = $this->agreeing($poses[$k], $some);
        }
        arsort($closely);

        return array_map(fn (int $k) => [...$poses[$k], 0.0, 0.0, 0.0, 1.0], array_slice(array_keys($closely), 0, $most));
    }

    /** @return list<float> some pairs, evenly chosen, twelve numbers each: point, partner, normals of both */
    private function every(int $every): array
    {
        $some = [];
        for ($o = 0, $e = count($this->p); $o < $e; $o += 3 * $every) {
            foreach ([$this->p, $this->q, $this->n, $this->m] as $part) {
                array_push($some, $part[$o], $part[$o + 1], $part[$o + 2]);
            }
        }

        return $some;
    }

    /**
     * Two pairs at a time that could both be right: as far apart here as there, their normals at the same angles.
     *
     * @return list<array{int, int}> offsets of pairs
     */
    private function draws(): array
    {
        [$p, $n, $q, $m, $tolerance] = [$this->p, $this->n, $this->q, $this->m, $this->tolerance];
        $count = intdiv(count($p), 3);
        $drawn = [];
        $found = 0;
        $least = 9.0 * $tolerance * $tolerance;
        $random = 1902;
        for ($k = 0; $k < self::DRAWS && $found < self::JUDGED; $k++) {
            // Linear congruences modulo 2^31 (Knuth, volume 2); the low bits are hardly random.
            $random = $random * 1103515245 + 12345 & 0x7FFFFFFF;
            $a = 3 * (($random >> 8) * $count >> 23);
            $random = $random * 1103515245 + 12345 & 0x7FFFFFFF;
            $b = 3 * (($random >> 8) * $count >> 23);
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
            $found++;
        }

        return $drawn;
    }

    /**
     * The pose that lays the way between two places, and the normals at both, along that between their partners.
     *
     * @return list<float>|null twelve numbers; null where the normals leave it open
     */
    private function pose(int $a, int $b): ?array
    {
        [$p, $q] = [$this->p, $this->q];
        [$from, $to] = [self::axes($p, $this->n, $a, $b, 1.0), self::axes($q, $this->m, $a, $b, 1.0)];
        if ($from === null || $to === null) {
            // Normals that cancel out across the way: their difference does not.
            [$from, $to] = [self::axes($p, $this->n, $a, $b, -1.0), self::axes($q, $this->m, $a, $b, -1.0)];
        }
        if ($from === null || $to === null) {
            return null;
        }
        [$u, $v, $w, $x, $y, $z, $r, $s, $t] = $from;
        [$d, $e, $f, $g, $h, $i, $j, $k, $l] = $to;
        $xx = $d * $u + $g * $x + $j * $r;
        $xy = $d * $v + $g * $y + $j * $s;
        $xz = $d * $w + $g * $z + $j * $t;
        $yx = $e * $u + $h * $x + $k * $r;
        $yy = $e * $v + $h * $y + $k * $s;
        $yz = $e * $w + $h * $z + $k * $t;
        $zx = $f * $u + $i * $x + $l * $r;
        $zy = $f * $v + $i * $y + $l * $s;
        $zz = $f * $w + $i * $z + $l * $t;
        $x = 0.5 * ($p[$a] + $p[$b]);
        $y = 0.5 * ($p[$a + 1] + $p[$b + 1]);
        $z = 0.5 * ($p[$a + 2] + $p[$b + 2]);

        return [
            $xx, $xy, $xz, 0.5 * ($q[$a] + $q[$b]) - $xx * $x - $xy * $y - $xz * $z,
            $yx, $yy, $yz, 0.5 * ($q[$a + 1] + $q[$b + 1]) - $yx * $x - $yy * $y - $yz * $z,
            $zx, $zy, $zz, 0.5 * ($q[$a + 2] + $q[$b + 2]) - $zx * $x - $zy * $y - $zz * $z,
        ];
    }

    /**
     * Three axes by two places: the way from one to the other, their normals as far as they stand across it, and what is square to both.
     *
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  float  $sign  of the second normal
     * @return array{float, float, float, float, float, float, float, float, float}|null null where the normals hardly stand across
     */
    private static function axes(array $p, array $n, int $a, int $b, float $sign): ?array
    {
        $x = $p[$b] - $p[$a];
        $y = $p[$b + 1] - $p[$a + 1];
        $z = $p[$b + 2] - $p[$a + 2];
        $l = 1.0 / max(1e-300, sqrt($x * $x + $y * $y + $z * $z));
        $x *= $l;
        $y *= $l;
        $z *= $l;
        $u = $n[$a] + $sign * $n[$b];
        $v = $n[$a + 1] + $sign * $n[$b + 1];
        $w = $n[$a + 2] + $sign * $n[$b + 2];
        $along = $u * $x + $v * $y + $w * $z;
        $u -= $along * $x;
        $v -= $along * $y;
        $w -= $along * $z;
        $l = sqrt($u * $u + $v * $v + $w * $w);
        if ($l < 0.3) {
            return null;
        }
        $u /= $l;
        $v /= $l;
        $w /= $l;

        return [$x, $y, $z, $u, $v, $w, $y * $w - $z * $v, $z * $u - $x * $w, $x * $v - $y * $u];
    }

    /**
     * How many pairs a pose lays on each other, normals and all.
     *
     * @param  list<float>  $pose
     * @param  list<float>  $pairs  as every() gives them
     */
    private function agreeing(array $pose, array $pairs): int
    {
        [$t0, $t1, $t2, $t3, $t4, $t5, $t6, $t7, $t8, $t9, $t10, $t11] = $pose;
        $most = 4.0 * $this->tolerance * $this->tolerance;
        $agree = 0;
        for ($o = 0, $e = count($pairs); $o < $e; $o += 12) {
            $x = $pairs[$o];
            $y = $pairs[$o + 1];
            $z = $pairs[$o + 2];
            $d = $t0 * $x + $t1 * $y + $t2 * $z + $t3 - $pairs[$o + 3];
            $sum = $d * $d;
            if ($sum > $most) {
                continue;
            }
            $d = $t4 * $x + $t5 * $y + $t6 * $z + $t7 - $pairs[$o + 4];
            $sum += $d * $d;
            if ($sum > $most) {
                continue;
            }
            $d = $t8 * $x + $t9 * $y + $t10 * $z + $t11 - $pairs[$o + 5];
            if ($sum + $d * $d > $most) {
                continue;
            }
            $x = $pairs[$o + 6];
            $y = $pairs[$o + 7];
            $z = $pairs[$o + 8];
            if (($t0 * $x + $t1 * $y + $t2 * $z) * $pairs[$o + 9] + ($t4 * $x + $t5 * $y + $t6 * $z) * $pairs[$o + 10] + ($t8 * $x + $t9 * $y + $t10 * $z) * $pairs[$o + 11] > 0.8) {
                $agree++;
            }
        }

        return $agree;
    }

    /**
     * The first poses, no two alike.
     *
     * @param  list<list<float>>  $poses
     * @param  list<int>  $order
     * @return list<int> which, no more than the most
     */
    private function distinct(array $poses, array $order, int $most): array
    {
        $probe = [];
        for ($k = 0, $n = intdiv(count($this->p), 3); $k < 4; $k++) {
            array_push($probe, ...array_slice($this->p, 3 * intdiv($k * ($n - 1), 3), 3));
        }
        $limit = self::ALIKE * $this->tolerance;
        $kept = $places = [];
        $end = 0;
        foreach ($order as $which) {
            $pose = $poses[$which];
            $at = [];
            for ($o = 0; $o < 12; $o += 3) {
                for ($r = 0; $r < 12; $r += 4) {
                    $at[] = $pose[$r] * $probe[$o] + $pose[$r + 1] * $probe[$o + 1] + $pose[$r + 2] * $probe[$o + 2] + $pose[$r + 3];
                }
            }
            for ($o = 0; $o < $end; $o += 12) {
                for ($c = 0; $c < 12; $c++) {
                    $d = $at[$c] - $places[$o + $c];
                    if ($d >= $limit || $d <= -$limit) {
                        continue 2;
                    }
                }

                continue 2;
            }
            $kept[] = $which;
            if (count($kept) === $most) {
                break;
            }
            array_push($places, ...$at);
            $end += 12;
        }

        return $kept;
    }
}
