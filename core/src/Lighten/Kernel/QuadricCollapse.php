<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Kernel;

/**
 * Edge collapse in order of quadric error, in sorted rounds in place of a heap.
 *
 * Source    Garland & Heckbert 1997, "Surface Simplification Using Quadric Error Metrics". A round collapses the cheapest share
 *           of all edges, sorted, each vertex at most once; then costs are computed anew.
 * Departs   quadrics weighted by area; open edges get a plane square to their face; nearly singular systems and optima farther
 *           from the edge than its length fall back to the middle of the edge.
 * Input     manifold; vertices of a non-manifold edge count as boundary.
 * Keeps     genus and pieces (link condition), orientation (a face may not turn by 78 degrees or more).
 * Cost      about 4 microseconds a face removed, 400 bytes a vertex. Deterministic.
 *
 * @internal
 */
final class QuadricCollapse
{
    /**
     * @param  array<int, float>  $P  flat xyz, best around the origin (the quadrics lose digits far from it)
     * @param  array<int, int>  $F  flat faces
     * @param  array<int, int>  $S  support a vertex, or empty; the lower of two survives
     * @param  array<int, int>  $origin  a face, or empty
     * @param  float  $limit  no collapse whose mean squared distance to its planes is above this, mm2
     * @param  float  $frac  share of the edges a round may take
     * @param  callable(float): void  $tell  told the share done after each round; may throw to stop
     * @return array{positions: list<float>, faces: list<int>, support: list<int>, origin: list<int>}
     */
    public static function run(array $P, array $F, array $S, array $origin, int $target, float $limit, float $boundaryWeight, callable $tell, float $frac = 0.25): array
    {

        $nv = intdiv(count($P), 3);
        $nf = intdiv(count($F), 3);
        // Stride four: three corners and a flag, 0 dead, else 1 + origin.
        $T = array_fill(0, 4 * $nf, 1);
        for ($f = 0,$i = 0,$j = 0; $f < $nf; $f++,$i += 3,$j += 4) {
            $T[$j] = $F[$i];
            $T[$j + 1] = $F[$i + 1];
            $T[$j + 2] = $F[$i + 2];
            if ($origin !== []) {
                $T[$j + 3] = 1 + $origin[$f];
            }
        }
        $F = [];
        $origin = [];
        $A = array_fill(0, $nv, 0.0);
        $Q = array_fill(0, 10 * $nv, 0.0);
        for ($j = 0,$e = 4 * $nf; $j < $e; $j += 4) {
            $i = $T[$j];
            $k = $T[$j + 1];
            $l = $T[$j + 2];
            $o = 3 * $i;
            $ax = $P[$o];
            $ay = $P[$o + 1];
            $az = $P[$o + 2];
            $o = 3 * $k;
            $ux = $P[$o] - $ax;
            $uy = $P[$o + 1] - $ay;
            $uz = $P[$o + 2] - $az;
            $o = 3 * $l;
            $vx = $P[$o] - $ax;
            $vy = $P[$o + 1] - $ay;
            $vz = $P[$o + 2] - $az;
            $nx = $uy * $vz - $uz * $vy;
            $ny = $uz * $vx - $ux * $vz;
            $nz = $ux * $vy - $uy * $vx;
            $L = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
            if ($L < 1e-300) {
                continue;
            } $w = 1.0 / $L;
            $nx *= $w;
            $ny *= $w;
            $nz *= $w;
            $d = -($nx * $ax + $ny * $ay + $nz * $az);
            $w = 0.5 * $L;
            $A[$i] += $w;
            $A[$k] += $w;
            $A[$l] += $w;
            $q0 = $w * $nx * $nx;
            $q1 = $w * $nx * $ny;
            $q2 = $w * $nx * $nz;
            $q3 = $w * $nx * $d;
            $q4 = $w * $ny * $ny;
            $q5 = $w * $ny * $nz;
            $q6 = $w * $ny * $d;
            $q7 = $w * $nz * $nz;
            $q8 = $w * $nz * $d;
            $q9 = $w * $d * $d;
            $o = 10 * $i;
            $Q[$o] += $q0;
            $Q[$o + 1] += $q1;
            $Q[$o + 2] += $q2;
            $Q[$o + 3] += $q3;
            $Q[$o + 4] += $q4;
            $Q[$o + 5] += $q5;
            $Q[$o + 6] += $q6;
            $Q[$o + 7] += $q7;
            $Q[$o + 8] += $q8;
            $Q[$o + 9] += $q9;
            $o = 10 * $k;
            $Q[$o] += $q0;
            $Q[$o + 1] += $q1;
            $Q[$o + 2] += $q2;
            $Q[$o + 3] += $q3;
            $Q[$o + 4] += $q4;
            $Q[$o + 5] += $q5;
            $Q[$o + 6] += $q6;
            $Q[$o + 7] += $q7;
            $Q[$o + 8] += $q8;
            $Q[$o + 9] += $q9;
            $o = 10 * $l;
            $Q[$o] += $q0;
            $Q[$o + 1] += $q1;
            $Q[$o + 2] += $q2;
            $Q[$o + 3] += $q3;
            $Q[$o + 4] += $q4;
            $Q[$o + 5] += $q5;
            $Q[$o + 6] += $q6;
            $Q[$o + 7] += $q7;
            $Q[$o + 8] += $q8;
            $Q[$o + 9] += $q9;
        }
        $lock = array_fill(0, $nv, 0);
        if ($S === []) {
            $S = array_fill(0, $nv, 0);
        }
        $start = $nf;
        $pass = 0;
        $bnd = array_fill(0, $nv, 0);
        $mk = array_fill(0, $nv, 0);
        $stamp = 0;
        while ($nf > $target) {
            $pass++;
            // CSR vertex -> half edges (h=4f+c)
            $st = array_fill(0, $nv + 1, 0);
            $e = 4 * $nf;
            for ($j = 0; $j < $e; $j += 4) {
                $st[$T[$j]]++;
                $st[$T[$j + 1]]++;
                $st[$T[$j + 2]]++;
            }
            $s = 0;
            for ($i = 0; $i < $nv; $i++) {
                $s += $st[$i];
                $st[$i] = $s;
            } $st[$nv] = $s;
            $H = array_fill(0, $s, 0);
            for ($j = $e - 4; $j >= 0; $j -= 4) {
                $v = $T[$j + 2];
                $k = $st[$v] - 1;
                $st[$v] = $k;
                $H[$k] = $j + 2;
                $v = $T[$j + 1];
                $k = $st[$v] - 1;
                $st[$v] = $k;
                $H[$k] = $j + 1;
                $v = $T[$j];
                $k = $st[$v] - 1;
                $st[$v] = $k;
                $H[$k] = $j;
            }
            if ($pass === 1) { // boundary / non-manifold detection: every half edge v->w needs exactly one twin
                for ($v = 0; $v < $nv; $v++) {
                    $stamp += 2;
                    $x = $st[$v];
                    $y = $st[$v + 1];
                    $c = 0;
                    for ($i = $x; $i < $y; $i++) {
                        $h = $H[$i];
                        $w = $T[($h & 3) === 2 ? $h - 2 : $h + 1];
                        if ($mk[$w] === $stamp) {
                            $c = -1000000;
                        } $mk[$w] = $stamp;
                        $c++;
                    } for ($i = $x; $i < $y; $i++) {
                        $h = $H[$i];
                        if ($mk[$T[($h & 3) === 0 ? $h + 2 : $h - 1]] === $stamp) {
                            $c--;
                        }
                    } if ($c !== 0) {
                        $bnd[$v] = 1;
                    }
                }
                // constraint planes on open edges
                for ($j = 0; $j < $e; $j++) {
                    if (($j & 3) === 3) {
                        continue;
                    } $a = $T[$j];
                    if (! $bnd[$a]) {
                        continue;
                    } $jn = ($j & 3) === 2 ? $j - 2 : $j + 1;
                    $b = $T[$jn];
                    if (! $bnd[$b]) {
                        continue;
                    } $tw = false;
                    for ($i = $st[$a]; $i < $st[$a + 1]; $i++) {
                        $h = $H[$i];
                        if ($T[($h & 3) === 0 ? $h + 2 : $h - 1] === $b) {
                            $tw = true;
                            break;
                        }
                    } if ($tw) {
                        continue;
                    }
                    $c = $T[($j & 3) === 0 ? $j + 2 : $j - 1];
                    $ex = $P[3 * $b] - $P[3 * $a];
                    $ey = $P[3 * $b + 1] - $P[3 * $a + 1];
                    $ez = $P[3 * $b + 2] - $P[3 * $a + 2];
                    $ux = $P[3 * $c] - $P[3 * $a];
                    $uy = $P[3 * $c + 1] - $P[3 * $a + 1];
                    $uz = $P[3 * $c + 2] - $P[3 * $a + 2];
                    $l2 = $ex * $ex + $ey * $ey + $ez * $ez;
                    if ($l2 < 1e-300) {
                        continue;
                    } $dt = ($ux * $ex + $uy * $ey + $uz * $ez) / $l2;
                    $nx = $ux - $dt * $ex;
                    $ny = $uy - $dt * $ey;
                    $nz = $uz - $dt * $ez;
                    $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
                    if ($l < 1e-300) {
                        continue;
                    } $nx /= $l;
                    $ny /= $l;
                    $nz /= $l;
                    $d = -($nx * $P[3 * $a] + $ny * $P[3 * $a + 1] + $nz * $P[3 * $a + 2]);
                    $w = $boundaryWeight * $l2;
                    for ($r = 0; $r < 2; $r++) {
                        $o = 10 * ($r === 0 ? $a : $b);
                        $Q[$o] += $w * $nx * $nx;
                        $Q[$o + 1] += $w * $nx * $ny;
                        $Q[$o + 2] += $w * $nx * $nz;
                        $Q[$o + 3] += $w * $nx * $d;
                        $Q[$o + 4] += $w * $ny * $ny;
                        $Q[$o + 5] += $w * $ny * $nz;
                        $Q[$o + 6] += $w * $ny * $d;
                        $Q[$o + 7] += $w * $nz * $nz;
                        $Q[$o + 8] += $w * $nz * $d;
                        $Q[$o + 9] += $w * $d * $d;
                    }
                }
            }
            // edge costs
            $C = [];
            $E = [];
            for ($j = 0; $j < $e; $j += 4) {
                for ($c = 0; $c < 3; $c++) {
                    $a = $T[$j + $c];
                    $b = $T[$c === 2 ? $j : $j + $c + 1];
                    if ($a > $b) {
                        if (! $bnd[$a] || ! $bnd[$b]) {
                            continue;
                        } $tw = false;
                        for ($i = $st[$a],$k = $st[$a + 1]; $i < $k; $i++) {
                            $h = $H[$i];
                            if ($T[($h & 3) === 0 ? $h + 2 : $h - 1] === $b) {
                                $tw = true;
                                break;
                            }
                        } if ($tw) {
                            continue;
                        }
                    }
                    if ($lock[$a] || $lock[$b]) {
                        continue;
                    }
                    $i = 10 * $a;
                    $k = 10 * $b;
                    $a0 = $Q[$i] + $Q[$k];
                    $a1 = $Q[$i + 1] + $Q[$k + 1];
                    $a2 = $Q[$i + 2] + $Q[$k + 2];
                    $a3 = $Q[$i + 3] + $Q[$k + 3];
                    $a4 = $Q[$i + 4] + $Q[$k + 4];
                    $a5 = $Q[$i + 5] + $Q[$k + 5];
                    $a6 = $Q[$i + 6] + $Q[$k + 6];
                    $a7 = $Q[$i + 7] + $Q[$k + 7];
                    $a8 = $Q[$i + 8] + $Q[$k + 8];
                    $a9 = $Q[$i + 9] + $Q[$k + 9];
                    $c0 = $a4 * $a7 - $a5 * $a5;
                    $c1 = $a2 * $a5 - $a1 * $a7;
                    $c2 = $a1 * $a5 - $a2 * $a4;
                    $det = $a0 * $c0 + $a1 * $c1 + $a2 * $c2;
                    $tr = $a0 + $a4 + $a7;
                    if ($det > 1e-11 * $tr * $tr * $tr) { // v=-A^-1 b ; error = b.v + c
                        $w = -1.0 / $det;
                        $c4 = $a0 * $a7 - $a2 * $a2;
                        $c5 = $a1 * $a2 - $a0 * $a5;
                        $c7 = $a0 * $a4 - $a1 * $a1;
                        $cost = $a9 + $w * ($a3 * ($c0 * $a3 + $c1 * $a6 + $c2 * $a8) + $a6 * ($c1 * $a3 + $c4 * $a6 + $c5 * $a8) + $a8 * ($c2 * $a3 + $c5 * $a6 + $c7 * $a8));
                    } else {
                        $i = 3 * $a;
                        $k = 3 * $b;
                        $x = 0.5 * ($P[$i] + $P[$k]);
                        $y = 0.5 * ($P[$i + 1] + $P[$k + 1]);
                        $z = 0.5 * ($P[$i + 2] + $P[$k + 2]);
                        $cost = $x * ($a0 * $x + 2.0 * ($a1 * $y + $a2 * $z + $a3)) + $y * ($a4 * $y + 2.0 * ($a5 * $z + $a6)) + $z * ($a7 * $z + 2.0 * $a8) + $a9;
                    }
                    if ($cost > $limit * ($A[$a] + $A[$b])) {
                        continue;
                    }
                    $C[] = $cost;
                    $E[] = $j + $c;
                }
            }
            $m = count($C);
            if ($m === 0) {
                break;
            }
            // threshold from a sample
            $stp = intdiv($m, 8192) + 1;
            $smp = [];
            for ($i = 0; $i < $m; $i += $stp) {
                $smp[] = $C[$i];
            } sort($smp);
            $thr = $smp[(int) ((count($smp) - 1) * $frac)];
            if ($thr <= 0.0) {
                $thr = 1e-300;
            }
            if ($pass > 40) {
                $thr = INF;
            }
            $K = [];
            $sc = 4194303.0 / $thr;
            if ($thr === INF) {
                for ($i = 0; $i < $m; $i++) {
                    $K[] = $E[$i];
                }
            } else {
                for ($i = 0; $i < $m; $i++) {
                    $c = $C[$i];
                    if ($c <= $thr) {
                        $K[] = ((int) (($c > 0.0 ? $c : 0.0) * $sc) << 32) | $E[$i];
                    }
                }
            }
            unset($C,$E);
            sort($K);
            $busy = $lock;
            $nc = 0;
            $m = count($K);
            $remove = $nf - $target;
            for ($n = 0; $n < $m && $remove > 0; $n++) {
                $h = $K[$n] & 0xFFFFFFFF;
                $a = $T[$h];
                $b = $T[($h & 3) === 2 ? $h - 2 : $h + 1];
                if ($busy[$a] || $busy[$b] || $T[$h | 3] === 0) {
                    continue;
                }
                $a_s = $st[$a];
                $a_e = $st[$a + 1];
                $b_s = $st[$b];
                $b_e = $st[$b + 1];
                // link condition
                $stamp += 2;
                $both = $bnd[$a] + $bnd[$b];
                for ($i = $a_s; $i < $a_e; $i++) {
                    $h = $H[$i];
                    if ($T[$h | 3] === 0) {
                        continue;
                    } $c = $h & 3;
                    $mk[$T[$c === 2 ? $h - 2 : $h + 1]] = $stamp;
                    $mk[$T[$c === 0 ? $h + 2 : $h - 1]] = $stamp;
                }
                $sh = 0;
                $ef = 0;
                $s1 = $stamp + 1;
                for ($i = $b_s; $i < $b_e; $i++) {
                    $h = $H[$i];
                    if ($T[$h | 3] === 0) {
                        continue;
                    } $c = $h & 3;
                    $v = $T[$c === 2 ? $h - 2 : $h + 1];
                    $w = $T[$c === 0 ? $h + 2 : $h - 1];
                    if ($mk[$v] === $stamp) {
                        $mk[$v] = $s1;
                        $sh++;
                    } if ($mk[$w] === $stamp) {
                        $mk[$w] = $s1;
                        $sh++;
                    } if ($v === $a || $w === $a) {
                        $ef++;
                    }
                }
                if ($sh !== $ef || $ef === 0 || $ef > 2 || ($ef === 2 && $both === 2)) {
                    continue;
                }
                if ($ef === 1 && $both < 2) {
                    continue;
                }
                // optimal position
                $i = 10 * $a;
                $k = 10 * $b;
                $a0 = $Q[$i] + $Q[$k];
                $a1 = $Q[$i + 1] + $Q[$k + 1];
                $a2 = $Q[$i + 2] + $Q[$k + 2];
                $a3 = $Q[$i + 3] + $Q[$k + 3];
                $a4 = $Q[$i + 4] + $Q[$k + 4];
                $a5 = $Q[$i + 5] + $Q[$k + 5];
                $a6 = $Q[$i + 6] + $Q[$k + 6];
                $a7 = $Q[$i + 7] + $Q[$k + 7];
                $a8 = $Q[$i + 8] + $Q[$k + 8];
                $c0 = $a4 * $a7 - $a5 * $a5;
                $c1 = $a2 * $a5 - $a1 * $a7;
                $c2 = $a1 * $a5 - $a2 * $a4;
                $det = $a0 * $c0 + $a1 * $c1 + $a2 * $c2;
                $tr = $a0 + $a4 + $a7;
                if ($det > 1e-11 * $tr * $tr * $tr) {
                    $w = -1.0 / $det;
                    $c4 = $a0 * $a7 - $a2 * $a2;
                    $c5 = $a1 * $a2 - $a0 * $a5;
                    $c7 = $a0 * $a4 - $a1 * $a1;
                    $x = $w * ($c0 * $a3 + $c1 * $a6 + $c2 * $a8);
                    $y = $w * ($c1 * $a3 + $c4 * $a6 + $c5 * $a8);
                    $z = $w * ($c2 * $a3 + $c5 * $a6 + $c7 * $a8);
                } else {
                    $i = 3 * $a;
                    $k = 3 * $b;
                    $x = 0.5 * ($P[$i] + $P[$k]);
                    $y = 0.5 * ($P[$i + 1] + $P[$k + 1]);
                    $z = 0.5 * ($P[$i + 2] + $P[$k + 2]);
                }
                // An optimum far from its edge comes from a nearly singular system.
                $i = 3 * $a;
                $k = 3 * $b;
                $ux = $P[$k] - $P[$i];
                $uy = $P[$k + 1] - $P[$i + 1];
                $uz = $P[$k + 2] - $P[$i + 2];
                $vx = 0.5 * ($P[$i] + $P[$k]);
                $vy = 0.5 * ($P[$i + 1] + $P[$k + 1]);
                $vz = 0.5 * ($P[$i + 2] + $P[$k + 2]);
                if (($x - $vx) * ($x - $vx) + ($y - $vy) * ($y - $vy) + ($z - $vz) * ($z - $vz) > $ux * $ux + $uy * $uy + $uz * $uz) {
                    $x = $vx;
                    $y = $vy;
                    $z = $vz;
                }
                // flips (and slivers): for faces of a without b, faces of b without a
                $ok = true;
                $va = $a;
                $vb = $b;
                for ($r = 0; $r < 2; $r++) {
                    if ($r === 0) {
                        $i = $a_s;
                        $k = $a_e;
                        $o = $b;
                        $v3 = 3 * $a;
                    } else {
                        $i = $b_s;
                        $k = $b_e;
                        $o = $a;
                        $v3 = 3 * $b;
                    }
                    $px = $P[$v3];
                    $py = $P[$v3 + 1];
                    $pz = $P[$v3 + 2];
                    for (; $i < $k; $i++) {
                        $h = $H[$i];
                        if ($T[$h | 3] === 0) {
                            continue;
                        } $c = $h & 3;
                        $v = $T[$c === 2 ? $h - 2 : $h + 1];
                        $w = $T[$c === 0 ? $h + 2 : $h - 1];
                        if ($v === $o || $w === $o) {
                            continue;
                        }
                        $v *= 3;
                        $w *= 3;
                        $jx = $P[$v];
                        $jy = $P[$v + 1];
                        $jz = $P[$v + 2];
                        $ex = $P[$w] - $jx;
                        $ey = $P[$w + 1] - $jy;
                        $ez = $P[$w + 2] - $jz;
                        $ux = $px - $jx;
                        $uy = $py - $jy;
                        $uz = $pz - $jz;
                        $wx = $x - $jx;
                        $wy = $y - $jy;
                        $wz = $z - $jz;
                        $n1x = $ey * $uz - $ez * $uy;
                        $n1y = $ez * $ux - $ex * $uz;
                        $n1z = $ex * $uy - $ey * $ux;
                        $n2x = $ey * $wz - $ez * $wy;
                        $n2y = $ez * $wx - $ex * $wz;
                        $n2z = $ex * $wy - $ey * $wx;
                        $dt = $n1x * $n2x + $n1y * $n2y + $n1z * $n2z;
                        if ($dt <= 0.0) {
                            $ok = false;
                            break;
                        }
                        $l2 = $n2x * $n2x + $n2y * $n2y + $n2z * $n2z;
                        if ($dt * $dt < 0.04 * $l2 * ($n1x * $n1x + $n1y * $n1y + $n1z * $n1z)) {
                            $ok = false;
                            break;
                        }
                    }
                    if (! $ok) {
                        break;
                    }
                }
                if (! $ok) {
                    continue;
                }
                // commit: a survives
                for ($i = $a_s; $i < $a_e; $i++) {
                    $h = $H[$i];
                    $c = $h & 3;
                    if ($T[$c === 2 ? $h - 2 : $h + 1] === $b || $T[$c === 0 ? $h + 2 : $h - 1] === $b) {
                        if ($T[$h | 3] !== 0) {
                            $T[$h | 3] = 0;
                            $remove--;
                        }
                    }
                }
                for ($i = $b_s; $i < $b_e; $i++) {
                    $T[$H[$i]] = $a;
                }
                $i = 3 * $a;
                $P[$i] = $x;
                $P[$i + 1] = $y;
                $P[$i + 2] = $z;
                $i = 10 * $a;
                $k = 10 * $b;
                $Q[$i] = $a0;
                $Q[$i + 1] = $a1;
                $Q[$i + 2] = $a2;
                $Q[$i + 3] = $a3;
                $Q[$i + 4] = $a4;
                $Q[$i + 5] = $a5;
                $Q[$i + 6] = $a6;
                $Q[$i + 7] = $a7;
                $Q[$i + 8] = $a8;
                $Q[$i + 9] += $Q[$k + 9];
                if ($bnd[$b]) {
                    $bnd[$a] = 1;
                } $A[$a] += $A[$b];
                if ($S[$b] < $S[$a]) {
                    $S[$a] = $S[$b];
                }
                $busy[$a] = 1;
                $busy[$b] = 2;
                $nc++;
            }
            // compact faces and vertices in place
            $k = 0;
            for ($j = 0; $j < $e; $j += 4) {
                if ($T[$j + 3] !== 0) {
                    if ($k !== $j) {
                        $T[$k] = $T[$j];
                        $T[$k + 1] = $T[$j + 1];
                        $T[$k + 2] = $T[$j + 2];
                        $T[$k + 3] = $T[$j + 3];
                    } $k += 4;
                }
            } $nf = $k >> 2;
            $map = array_fill(0, $nv, 0);
            $k = 0;
            for ($v = 0; $v < $nv; $v++) {
                if ($busy[$v] === 2) {
                    continue;
                } $map[$v] = $k;
                if ($k !== $v) {
                    $i = 3 * $v;
                    $o = 3 * $k;
                    $P[$o] = $P[$i];
                    $P[$o + 1] = $P[$i + 1];
                    $P[$o + 2] = $P[$i + 2];
                    $i = 10 * $v;
                    $o = 10 * $k;
                    $Q[$o] = $Q[$i];
                    $Q[$o + 1] = $Q[$i + 1];
                    $Q[$o + 2] = $Q[$i + 2];
                    $Q[$o + 3] = $Q[$i + 3];
                    $Q[$o + 4] = $Q[$i + 4];
                    $Q[$o + 5] = $Q[$i + 5];
                    $Q[$o + 6] = $Q[$i + 6];
                    $Q[$o + 7] = $Q[$i + 7];
                    $Q[$o + 8] = $Q[$i + 8];
                    $Q[$o + 9] = $Q[$i + 9];
                    $bnd[$k] = $bnd[$v];
                    $lock[$k] = $lock[$v];
                    $A[$k] = $A[$v];
                    $S[$k] = $S[$v];
                } $k++;
            }
            $nv = $k;
            $e = 4 * $nf;
            for ($j = 0; $j < $e; $j += 4) {
                $T[$j] = $map[$T[$j]];
                $T[$j + 1] = $map[$T[$j + 1]];
                $T[$j + 2] = $map[$T[$j + 2]];
            }
            $tell(min(1.0, ($start - $nf) / max(1, $start - $target)));
            if ($nc === 0) {
                if ($frac >= 1.0) {
                    break;
                } $frac = min(1.0, $frac * 2);
            }
        }
        $F = [];
        $origin = [];
        for ($f = 0,$j = 0; $f < $nf; $f++,$j += 4) {
            $F[] = $T[$j];
            $F[] = $T[$j + 1];
            $F[] = $T[$j + 2];
            $origin[] = $T[$j + 3] - 1;
        }

        FlipEdges::run($P, $Q, $A, $F, $origin);

        return ['positions' => array_slice($P, 0, 3 * $nv), 'faces' => $F, 'support' => array_slice($S, 0, $nv), 'origin' => $origin];
    }
}
