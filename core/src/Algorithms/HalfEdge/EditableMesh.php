<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\HalfEdge;

/**
 * A manifold triangle mesh whose edges are split, collapsed and flipped in place, with features and evidence carried along.
 *
 * Half-edge 4 t + c of face t leads from its corner c to the next; the fourth number of a face is 0 for one that is gone, else 1 + its label. Vertices and faces that go leave gaps
 * until taken() reads the mesh out. Everything is public: kernels walk the lists themselves.
 *
 * Long because splitting, collapsing and flipping are written out on the arrays, without calls: kernels do them millions of times.
 *
 * Source    half-edges in arrays after Campagna, Kobbelt & Seidel 1998 (directed edges); legality of collapses: Dey, Edelsbrunner, Guha & Nekhayev 1999 (link condition).
 *
 * @internal
 */
final class EditableMesh
{
    /** A vertex that may slide along the feature that it lies on. */
    public const ON_FEATURE = 1;

    /** A vertex that stays where it is: where features end, meet or turn. */
    public const CORNER = 2;

    /** A vertex of an open edge. */
    public const AT_RIM = 4;

    /** @var array<int, float> four numbers a vertex: x, y, z, and one that the caller wants carried: the mean of both ends where an edge is split */
    public array $vertices;

    /** @var array<int, int> flags of a vertex */
    public array $flags;

    /** @var array<int, int> an outgoing half-edge of each vertex; -1 when it is gone. At a rim the one that no face lies clockwise of */
    public array $out;

    /** @var array<int, int> four numbers a face: corners, and 0 or 1 + label */
    public array $corners;

    /** @var array<int, int> of each half-edge the one the other way, -1 at a rim; every fourth is not used */
    public array $twins;

    /** @var array<int, int> of a half-edge on a feature the number of its line, from 1 on; 0 of others */
    public array $features;

    /** @var array<int, int> when a vertex was last seen, for the link condition */
    private array $seen;

    private int $look = 0;

    /**
     * @param  array<int, float>  $positions  flat xyz
     * @param  array<int, int>  $faces  flat; every edge of one or two faces that run against each other, and one fan a vertex
     * @param  array<int, int>  $labels  a face; all 0 when empty
     * @param  array<int, int>|null  $twins  as Topology::twins() gives them, if they are known
     */
    public function __construct(array $positions, array $faces, array $labels = [], ?array $twins = null)
    {
        $n = intdiv(count($positions), 3);
        $V = array_fill(0, 4 * $n, 0.0);
        for ($v = 0, $i = 0, $o = 0; $v < $n; $v++, $i += 3, $o += 4) {
            $V[$o] = $positions[$i];
            $V[$o + 1] = $positions[$i + 1];
            $V[$o + 2] = $positions[$i + 2];
        }
        $twins ??= Topology::twins($faces);
        $m = intdiv(count($faces), 3);
        $C = $W = array_fill(0, 4 * $m, 1);
        $out = array_fill(0, $n, -1);
        $flags = array_fill(0, $n, 0);
        for ($t = 0, $i = 0, $o = 0; $t < $m; $t++, $i += 3, $o += 4) {
            for ($c = 0; $c < 3; $c++) {
                $v = $faces[$i + $c];
                $twin = $twins[$i + $c];
                $C[$o + $c] = $v;
                $W[$o + $c] = $twin < 0 ? -1 : 4 * intdiv($twin, 3) + $twin % 3;
                if ($out[$v] < 0 || $twin < 0) {
                    $out[$v] = $o + $c;
                }
                if ($twin < 0) {
                    $flags[$v] |= self::AT_RIM;
                    $flags[$faces[$i + ($c + 1) % 3]] |= self::AT_RIM;
                }
            }
            $C[$o + 3] = 1 + ($labels[$t] ?? 0);
        }
        $this->vertices = $V;
        $this->corners = $C;
        $this->twins = $W;
        $this->out = $out;
        $this->flags = $flags;
        $this->features = array_fill(0, 4 * $m, 0);
        $this->seen = array_fill(0, $n, 0);
    }

    /**
     * Is every edge of one or two faces that run against each other, and every vertex in one fan?
     *
     * @param  array<int, int>  $faces  flat
     * @param  array<int, int>  $twins  as Topology::twins() gives them
     */
    public static function takes(int $vertexCount, array $faces, array $twins): bool
    {
        if (in_array(-2, $twins, true)) {
            return false;
        }
        $corners = array_fill(0, $vertexCount, 0);
        $out = array_fill(0, $vertexCount, -1);
        foreach ($faces as $h => $v) {
            $corners[$v]++;
            if ($out[$v] < 0 || $twins[$h] < 0) {
                $out[$v] = $h;
            }
        }
        // Around each vertex from the rim on, or once around: all its faces must come by.
        for ($v = 0; $v < $vertexCount; $v++) {
            $h = $first = $out[$v];
            for ($k = $corners[$v]; $k > 0 && $h >= 0; $k--) {
                $h = $twins[$h % 3 === 0 ? $h + 2 : $h - 1];
                if ($h === $first && $k > 1) {
                    return false;
                }
            }
            if ($k > 0) {
                return false;
            }
        }

        return true;
    }

    /** Faces that are there. */
    public function faceCount(): int
    {
        $count = 0;
        for ($o = 3, $e = count($this->corners); $o < $e; $o += 4) {
            $count += $this->corners[$o] !== 0 ? 1 : 0;
        }

        return $count;
    }

    /** The half-edge after one in its face. */
    public static function next(int $h): int
    {
        return ($h & 3) === 2 ? $h - 2 : $h + 1;
    }

    /** The half-edge before one in its face. */
    public static function previous(int $h): int
    {
        return ($h & 3) === 0 ? $h + 2 : $h - 1;
    }

    /** @return array<int, float> four numbers a face, the first three its unit normal; zeros of a face without area */
    public function normals(): array
    {
        $N = $this->crosses();
        for ($o = 0, $e = count($N); $o < $e; $o += 4) {
            $n = sqrt($N[$o] * $N[$o] + $N[$o + 1] * $N[$o + 1] + $N[$o + 2] * $N[$o + 2]);
            $n = $n > 0.0 ? 1.0 / $n : 0.0;
            $N[$o] *= $n;
            $N[$o + 1] *= $n;
            $N[$o + 2] *= $n;
        }

        return $N;
    }

    /** @return array<int, float> four numbers a face, the first three its normal, twice its area long */
    public function crosses(): array
    {
        [$C, $V] = [$this->corners, $this->vertices];
        $N = array_fill(0, count($C), 0.0);
        for ($o = 0, $e = count($C); $o < $e; $o += 4) {
            $i = $C[$o] << 2;
            $j = $C[$o + 1] << 2;
            $k = $C[$o + 2] << 2;
            $ux = $V[$j] - $V[$i];
            $uy = $V[$j + 1] - $V[$i + 1];
            $uz = $V[$j + 2] - $V[$i + 2];
            $vx = $V[$k] - $V[$i];
            $vy = $V[$k + 1] - $V[$i + 1];
            $vz = $V[$k + 2] - $V[$i + 2];
            $N[$o] = $uy * $vz - $uz * $vy;
            $N[$o + 1] = $uz * $vx - $ux * $vz;
            $N[$o + 2] = $ux * $vy - $uy * $vx;
        }

        return $N;
    }

    /** The square of the length of an edge. */
    public function lengthSq(int $h): float
    {
        $a = $this->corners[$h] << 2;
        $b = $this->corners[($h & 3) === 2 ? $h - 2 : $h + 1] << 2;
        $x = $this->vertices[$a] - $this->vertices[$b];
        $y = $this->vertices[$a + 1] - $this->vertices[$b + 1];
        $z = $this->vertices[$a + 2] - $this->vertices[$b + 2];

        return $x * $x + $y * $y + $z * $z;
    }

    /**
     * Puts a vertex in the middle of an edge.
     *
     * @return int the vertex
     */
    public function split(int $h): int
    {
        $n = ($h & 3) === 2 ? $h - 2 : $h + 1;
        $p = ($h & 3) === 0 ? $h + 2 : $h - 1;
        $a = $this->corners[$h];
        $b = $this->corners[$n];
        $c = $this->corners[$p];
        $m = count($this->out);
        $i = $a << 2;
        $j = $b << 2;
        for ($k = 0; $k < 4; $k++) {
            $this->vertices[] = 0.5 * ($this->vertices[$i + $k] + $this->vertices[$j + $k]);
        }
        $this->seen[] = 0;
        $feature = $this->features[$h];
        $g = $this->twins[$h];
        $this->flags[] = ($feature !== 0 ? self::ON_FEATURE : 0) | ($g < 0 ? self::AT_RIM : 0);
        // The face a b c becomes a m c, and m b c is new.
        $s = count($this->corners);
        array_push($this->corners, $m, $b, $c, $this->corners[$h | 3]);
        array_push($this->features, $feature, $this->features[$n], 0, 0);
        array_push($this->twins, -1, $this->twins[$n], $n, 0);
        if ($this->twins[$n] >= 0) {
            $this->twins[$this->twins[$n]] = $s + 1;
        }
        $this->corners[$n] = $m;
        $this->features[$n] = 0;
        $this->twins[$n] = $s + 2;
        if ($this->out[$b] === $n) {
            $this->out[$b] = $s + 1;
        }
        if ($g < 0) {
            $this->out[] = $s;

            return $m;
        }
        // The face b a d on the other side becomes b m d, and m a d is new.
        $gn = ($g & 3) === 2 ? $g - 2 : $g + 1;
        $gp = ($g & 3) === 0 ? $g + 2 : $g - 1;
        $d = $this->corners[$gp];
        array_push($this->corners, $m, $a, $d, $this->corners[$g | 3]);
        array_push($this->features, $feature, $this->features[$gn], 0, 0);
        array_push($this->twins, $h, $this->twins[$gn], $gn, 0);
        if ($this->twins[$gn] >= 0) {
            $this->twins[$this->twins[$gn]] = $s + 5;
        }
        $this->corners[$gn] = $m;
        $this->features[$gn] = 0;
        $this->twins[$gn] = $s + 6;
        $this->twins[$h] = $s + 4;
        $this->twins[$g] = $s;
        $this->twins[$s] = $g;
        if ($this->out[$a] === $gn) {
            $this->out[$a] = $s + 5;
        }
        $this->out[] = $s;

        return $m;
    }

    /** May the start of an edge be merged into its end without tearing the surface or laying it on itself? */
    public function canCollapse(int $h): bool
    {
        $n = ($h & 3) === 2 ? $h - 2 : $h + 1;
        $p = ($h & 3) === 0 ? $h + 2 : $h - 1;
        $a = $this->corners[$h];
        $b = $this->corners[$n];
        $g = $this->twins[$h];
        if ($g >= 0 && ($this->flags[$a] & $this->flags[$b] & self::AT_RIM) !== 0) {
            return false;
        }
        // Faces beside this one that would come to lie on each other.
        $s = $this->twins[$n];
        $t = $this->twins[$p];
        if (($s < 0 && $t < 0) || ($s >= 0 && $t >= 0 && $this->corners[($s & 3) === 0 ? $s + 2 : $s - 1] === $this->corners[($t & 3) === 0 ? $t + 2 : $t - 1])) {
            return false;
        }
        if ($g >= 0) {
            $s = $this->twins[($g & 3) === 2 ? $g - 2 : $g + 1];
            $t = $this->twins[($g & 3) === 0 ? $g + 2 : $g - 1];
            if (($s < 0 && $t < 0) || ($s >= 0 && $t >= 0 && $this->corners[($s & 3) === 0 ? $s + 2 : $s - 1] === $this->corners[($t & 3) === 0 ? $t + 2 : $t - 1])) {
                return false;
            }
        }
        // No neighbour in common but the opposite corners.
        $look = ++$this->look;
        $e = $first = $this->out[$a];
        do {
            $this->seen[$this->corners[($e & 3) === 2 ? $e - 2 : $e + 1]] = $look;
            $q = ($e & 3) === 0 ? $e + 2 : $e - 1;
            $e = $this->twins[$q];
            if ($e < 0) {
                $this->seen[$this->corners[$q]] = $look;
            }
        } while ($e >= 0 && $e !== $first);
        $common = 0;
        $e = $first = $this->out[$b];
        do {
            $common += $this->seen[$this->corners[($e & 3) === 2 ? $e - 2 : $e + 1]] === $look ? 1 : 0;
            $q = ($e & 3) === 0 ? $e + 2 : $e - 1;
            $e = $this->twins[$q];
            if ($e < 0) {
                $common += $this->seen[$this->corners[$q]] === $look ? 1 : 0;
            }
        } while ($e >= 0 && $e !== $first);

        return $common === ($g < 0 ? 1 : 2);
    }

    /** Merges the start of an edge into its end, which stays where it is and keeps its flags; canCollapse() must have allowed it. Whoever lies at a rim or on a feature is merged along it alone. */
    public function collapse(int $h): void
    {
        $n = ($h & 3) === 2 ? $h - 2 : $h + 1;
        $a = $this->corners[$h];
        $b = $this->corners[$n];
        $e = $first = $this->out[$a];
        do {
            $this->corners[$e] = $b;
            $e = $this->twins[($e & 3) === 0 ? $e + 2 : $e - 1];
        } while ($e >= 0 && $e !== $first);
        $this->out[$a] = -1;
        $g = $this->twins[$h];
        $this->drop($h);
        if ($g >= 0) {
            $this->drop($g);
        }
        // The way around $b begins at a half-edge that is left.
        $this->begin($b);
    }

    /** Takes a face whose edge h has no length any more out, and joins its other two edges. */
    private function drop(int $h): void
    {
        $n = ($h & 3) === 2 ? $h - 2 : $h + 1;
        $p = ($h & 3) === 0 ? $h + 2 : $h - 1;
        $s = $this->twins[$n];
        $t = $this->twins[$p];
        $feature = max($this->features[$n], $this->features[$p]);
        if ($s >= 0) {
            $this->twins[$s] = $t;
            $this->features[$s] = $feature;
        }
        if ($t >= 0) {
            $this->twins[$t] = $s;
            $this->features[$t] = $feature;
        }
        $this->corners[$h | 3] = 0;
        $c = $this->corners[$p];
        // s leads from the third corner to the merged vertex, t back.
        $this->out[$c] = $s >= 0 ? $s : (($t & 3) === 2 ? $t - 2 : $t + 1);
        $this->out[$this->corners[$n]] = $t >= 0 ? $t : (($s & 3) === 2 ? $s - 2 : $s + 1);
        $this->begin($c);
    }

    /** Makes the way around a vertex begin at the rim, where there is one. */
    private function begin(int $v): void
    {
        $h = $first = $this->out[$v];
        while (($g = $this->twins[$h]) >= 0) {
            $h = ($g & 3) === 2 ? $g - 2 : $g + 1;
            if ($h === $first) {
                return;
            }
        }
        $this->out[$v] = $h;
    }

    /** May an edge be turned within its two faces without doubling one that is there? */
    public function canFlip(int $h): bool
    {
        $g = $this->twins[$h];
        if ($g < 0 || $this->features[$h] !== 0) {
            return false;
        }
        $c = $this->corners[($h & 3) === 0 ? $h + 2 : $h - 1];
        $d = $this->corners[($g & 3) === 0 ? $g + 2 : $g - 1];
        $e = $first = $this->out[$c];
        do {
            if ($this->corners[($e & 3) === 2 ? $e - 2 : $e + 1] === $d) {
                return false;
            }
            $q = ($e & 3) === 0 ? $e + 2 : $e - 1;
            $e = $this->twins[$q];
            if ($e < 0 && $this->corners[$q] === $d) {
                return false;
            }
        } while ($e >= 0 && $e !== $first);

        return $c !== $d;
    }

    /** Turns the edge a b of the faces a b c and b a d: they become d c a and c d b. canFlip() must have allowed it. */
    public function flip(int $h): void
    {
        $n = ($h & 3) === 2 ? $h - 2 : $h + 1;
        $p = ($h & 3) === 0 ? $h + 2 : $h - 1;
        $g = $this->twins[$h];
        $gn = ($g & 3) === 2 ? $g - 2 : $g + 1;
        $gp = ($g & 3) === 0 ? $g + 2 : $g - 1;
        $a = $this->corners[$h];
        $b = $this->corners[$n];
        $c = $this->corners[$p];
        $d = $this->corners[$gp];
        // What lies outside of the four other edges, as n: b c, p: c a, gn: a d, gp: d b.
        $tn = $this->twins[$n];
        $tp = $this->twins[$p];
        $tgn = $this->twins[$gn];
        $tgp = $this->twins[$gp];
        $fn = $this->features[$n];
        $fp = $this->features[$p];
        $fgn = $this->features[$gn];
        $fgp = $this->features[$gp];
        // h: d c, n: c a, p: a d; g: c d, gn: d b, gp: b c.
        $this->corners[$h] = $d;
        $this->corners[$n] = $c;
        $this->corners[$p] = $a;
        $this->corners[$g] = $c;
        $this->corners[$gn] = $d;
        $this->corners[$gp] = $b;
        $this->twins[$n] = $tp;
        $this->twins[$p] = $tgn;
        $this->twins[$gn] = $tgp;
        $this->twins[$gp] = $tn;
        if ($tp >= 0) {
            $this->twins[$tp] = $n;
        }
        if ($tgn >= 0) {
            $this->twins[$tgn] = $p;
        }
        if ($tgp >= 0) {
            $this->twins[$tgp] = $gn;
        }
        if ($tn >= 0) {
            $this->twins[$tn] = $gp;
        }
        $this->features[$n] = $fp;
        $this->features[$p] = $fgn;
        $this->features[$gn] = $fgp;
        $this->features[$gp] = $fn;
        $this->out[$a] = $p;
        $this->out[$b] = $gp;
        $this->out[$c] = $n;
        $this->out[$d] = $gn;
        foreach ([$a, $b, $c, $d] as $v) {
            if (($this->flags[$v] & self::AT_RIM) !== 0) {
                $this->begin($v);
            }
        }
    }

    /**
     * The mesh without gaps.
     *
     * @return array{positions: list<float>, faces: list<int>, labels: list<int>, vertices: list<int>} vertices: which one each was here
     */
    public function taken(): array
    {
        $positions = $faces = $labels = $vertices = [];
        $at = array_fill(0, count($this->out), -1);
        foreach ($this->out as $v => $h) {
            if ($h >= 0) {
                $at[$v] = count($vertices);
                $vertices[] = $v;
                $positions[] = $this->vertices[4 * $v];
                $positions[] = $this->vertices[4 * $v + 1];
                $positions[] = $this->vertices[4 * $v + 2];
            }
        }
        for ($o = 0, $e = count($this->corners); $o < $e; $o += 4) {
            if ($this->corners[$o + 3] !== 0) {
                $faces[] = $at[$this->corners[$o]];
                $faces[] = $at[$this->corners[$o + 1]];
                $faces[] = $at[$this->corners[$o + 2]];
                $labels[] = $this->corners[$o + 3] - 1;
            }
        }

        return ['positions' => $positions, 'faces' => $faces, 'labels' => $labels, 'vertices' => $vertices];
    }

    /** @return list<string> what does not fit together, for tests */
    public function faults(): array
    {
        $wrong = [];
        $count = [];
        for ($h = 0, $e = count($this->corners); $h < $e; $h++) {
            if (($h & 3) === 3 || $this->corners[$h | 3] === 0) {
                continue;
            }
            $a = $this->corners[$h];
            $b = $this->corners[self::next($h)];
            $g = $this->twins[$h];
            $count[$a] = ($count[$a] ?? 0) + 1;
            if ($g >= 0 && ($this->twins[$g] !== $h || $this->corners[$g] !== $b || $this->corners[self::next($g)] !== $a || $this->features[$g] !== $this->features[$h] || $this->corners[$g | 3] === 0)) {
                $wrong[] = "half-edge $h and its twin $g do not fit";
            }
            if ($this->out[$a] < 0) {
                $wrong[] = "vertex $a of face ".($h >> 2).' is gone';
            }
        }
        foreach ($this->out as $v => $h) {
            if ($h < 0) {
                continue;
            }
            if ($this->corners[$h] !== $v || $this->corners[$h | 3] === 0) {
                $wrong[] = "vertex $v begins at $h, which is not its own";

                continue;
            }
            $k = 0;
            $g = $h;
            do {
                $k++;
                $g = $this->twins[self::previous($g)];
            } while ($g >= 0 && $g !== $h && $k < 1000);
            if ($k !== ($count[$v] ?? 0)) {
                $wrong[] = "around vertex $v $k of ".($count[$v] ?? 0).' faces are found';
            }
        }

        return $wrong;
    }
}
