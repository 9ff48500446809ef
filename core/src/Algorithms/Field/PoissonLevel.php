<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

/**
 * One level of the multi-level solver: some cells of a cubic lattice, the nodes at their corners, and a trilinear field on them.
 *
 * A cell's corners are numbered by bits: 1 for the upper side in x, 2 in y, 4 in z. Cells and nodes are named by x << 2b | y << b | z, with b
 * bits a number, hardly more than needed: PHP's hash tables look at the lowest bits of a key alone.
 *
 * @internal
 */
final class PoissonLevel
{
    /** @var array<int, int> cells by name => number */
    public array $cells = [];

    /** @var list<int> names of the cells in the order of their numbers */
    public array $names = [];

    /** @var array<int, int> nodes by name => number */
    public array $nodes = [];

    /** @var list<int> eight nodes a cell */
    public array $corners = [];

    /** @var array<int, float> the field at the nodes */
    public array $field = [];

    /**
     * @param  float  $h  edge of a cell, mm
     * @param  int  $bits  of a number in a name
     */
    public function __construct(public readonly float $h, public readonly int $bits)
    {
    }

    /** @param  array<int, true>  $cells  by name */
    public function fill(array $cells): void
    {
        $b = $this->bits;
        $nodes = [];
        $corners = array_fill(0, 8 * count($cells), 0);
        $names = [];
        $next = $o = 0;
        foreach ($cells as $name => $_) {
            $names[] = $name;
            for ($k = 0; $k < 8; $k++) {
                $node = $name + (($k & 1) << 2 * $b) + (($k >> 1 & 1) << $b) + ($k >> 2);
                if (! isset($nodes[$node])) {
                    $nodes[$node] = $next++;
                }
                $corners[$o++] = $nodes[$node];
            }
        }
        $this->cells = array_flip($names);
        $this->names = $names;
        $this->nodes = $nodes;
        $this->corners = $corners;
        $this->field = array_fill(0, $next, 0.0);
    }

    /** The field of the coarser level on the nodes of this one: linear functions of its cells are linear functions of ours. */
    public function interpolate(self $coarse): void
    {
        $b = $this->bits;
        $mask = (1 << $b) - 1;
        $field = $this->field;
        $from = $coarse->field;
        $theirs = $coarse->corners;
        $ours = $this->corners;
        $parents = $coarse->cells;
        foreach ($this->names as $c => $name) {
            $x = $name >> 2 * $b;
            $y = $name >> $b & $mask;
            $z = $name & $mask;
            $o = 8 * $parents[($x >> 1) << 2 * $b | ($y >> 1) << $b | $z >> 1];
            for ($k = 0; $k < 8; $k++) {
                // Twice the place of this corner in the parent cell: 0, 1 or 2 an axis.
                $i = ($x & 1) + ($k & 1);
                $j = ($y & 1) + ($k >> 1 & 1);
                $l = ($z & 1) + ($k >> 2);
                $sum = 0.0;
                for ($m = 0; $m < 8; $m++) {
                    $w = (($m & 1) === 1 ? $i : 2 - $i) * (($m & 2) === 2 ? $j : 2 - $j) * (($m & 4) === 4 ? $l : 2 - $l);
                    $sum += $w * $from[$theirs[$o + $m]];
                }
                $field[$ours[8 * $c + $k]] = 0.125 * $sum;
            }
        }
        $this->field = $field;
    }

    /**
     * Nodes that may change: those all of whose eight cells are here.
     *
     * @return array<int, float> 1 or 0 a node
     */
    public function free(): array
    {
        $around = array_fill(0, count($this->field), 0);
        foreach ($this->corners as $v) {
            $around[$v]++;
        }
        $free = array_fill(0, count($around), 0.0);
        foreach ($around as $v => $n) {
            if ($n === 8) {
                $free[$v] = 1.0;
            }
        }

        return $free;
    }

    /**
     * Conjugate gradients with the diagonal as preconditioner, from the field as it is.
     *
     * @param  array<int, float>  $right  a node
     * @param  array<int, float>  $free  a node: 1 may change, 0 stays
     * @param  array<int, float>  $weight  screening of the sample of each cell; 0 where there is none
     * @param  array<int, float>  $at  three numbers a cell: where in it the sample is, 0 to 1
     * @param  callable(): void  $breathe  may throw to stop
     */
    public function solve(array $right, array $free, array $weight, array $at, int $rounds, float $tolerance, callable $breathe): void
    {
        $n = count($this->field);
        $x = $this->field;
        $r = $this->applied($x, $weight, $at);
        $diagonal = $this->diagonal($weight, $at);
        $p = $z = array_fill(0, $n, 0.0);
        $rz = 0.0;
        for ($v = 0; $v < $n; $v++) {
            $r[$v] = $free[$v] * ($right[$v] - $r[$v]);
            $z[$v] = $r[$v] / $diagonal[$v];
            $p[$v] = $z[$v];
            $rz += $r[$v] * $z[$v];
        }
        $goal = $tolerance * $tolerance * $rz;
        for ($round = 0; $round < $rounds && $rz > $goal && $rz > 1e-300; $round++) {
            $breathe();
            $a = $this->applied($p, $weight, $at);
            $pa = 0.0;
            for ($v = 0; $v < $n; $v++) {
                $a[$v] *= $free[$v];
                $pa += $p[$v] * $a[$v];
            }
            $alpha = $rz / $pa;
            $next = 0.0;
            for ($v = 0; $v < $n; $v++) {
                $x[$v] += $alpha * $p[$v];
                $r[$v] -= $alpha * $a[$v];
                $z[$v] = $r[$v] / $diagonal[$v];
                $next += $r[$v] * $z[$v];
            }
            $beta = $next / $rz;
            $rz = $next;
            for ($v = 0; $v < $n; $v++) {
                $p[$v] = $z[$v] + $beta * $p[$v];
            }
        }
        $this->field = $x;
    }

    /**
     * Stiffness of trilinear cells and screening, applied to a field. Within a cell the entry of two corners is h/3 for the same one, 0 along an
     * edge and -h/12 else.
     *
     * @param  array<int, float>  $u
     * @param  array<int, float>  $weight
     * @param  array<int, float>  $at
     * @return array<int, float>
     */
    private function applied(array $u, array $weight, array $at): array
    {
        $corners = $this->corners;
        $out = array_fill(0, count($u), 0.0);
        $k = $this->h / 12.0;
        for ($c = 0, $o = 0, $e = count($corners); $o < $e; $c++, $o += 8) {
            $v0 = $corners[$o];
            $v1 = $corners[$o + 1];
            $v2 = $corners[$o + 2];
            $v3 = $corners[$o + 3];
            $v4 = $corners[$o + 4];
            $v5 = $corners[$o + 5];
            $v6 = $corners[$o + 6];
            $v7 = $corners[$o + 7];
            $a = $u[$v0];
            $b = $u[$v1];
            $cc = $u[$v2];
            $d = $u[$v3];
            $f = $u[$v4];
            $g = $u[$v5];
            $i = $u[$v6];
            $j = $u[$v7];
            $t = $a + $b + $cc + $d + $f + $g + $i + $j;
            $out[$v0] += $k * (5.0 * $a + $b + $cc + $f - $t);
            $out[$v1] += $k * (5.0 * $b + $a + $d + $g - $t);
            $out[$v2] += $k * (5.0 * $cc + $a + $d + $i - $t);
            $out[$v3] += $k * (5.0 * $d + $b + $cc + $j - $t);
            $out[$v4] += $k * (5.0 * $f + $a + $g + $i - $t);
            $out[$v5] += $k * (5.0 * $g + $b + $f + $j - $t);
            $out[$v6] += $k * (5.0 * $i + $cc + $f + $j - $t);
            $out[$v7] += $k * (5.0 * $j + $d + $g + $i - $t);
            $w = $weight[$c];
            if ($w > 0.0) {
                $x = $at[3 * $c];
                $y = $at[3 * $c + 1];
                $z = $at[3 * $c + 2];
                $xm = 1.0 - $x;
                $ym = 1.0 - $y;
                $zm = 1.0 - $z;
                $s = $w * ($zm * ($ym * ($xm * $a + $x * $b) + $y * ($xm * $cc + $x * $d)) + $z * ($ym * ($xm * $f + $x * $g) + $y * ($xm * $i + $x * $j)));
                $out[$v0] += $s * $xm * $ym * $zm;
                $out[$v1] += $s * $x * $ym * $zm;
                $out[$v2] += $s * $xm * $y * $zm;
                $out[$v3] += $s * $x * $y * $zm;
                $out[$v4] += $s * $xm * $ym * $z;
                $out[$v5] += $s * $x * $ym * $z;
                $out[$v6] += $s * $xm * $y * $z;
                $out[$v7] += $s * $x * $y * $z;
            }
        }

        return $out;
    }

    /**
     * @param  array<int, float>  $weight
     * @param  array<int, float>  $at
     * @return array<int, float>
     */
    private function diagonal(array $weight, array $at): array
    {
        $diagonal = array_fill(0, count($this->field), 0.0);
        foreach ($this->corners as $o => $v) {
            $diagonal[$v] += $this->h / 3.0;
            $c = $o >> 3;
            if ($weight[$c] > 0.0) {
                $phi = (($o & 1) === 1 ? $at[3 * $c] : 1.0 - $at[3 * $c]) * (($o & 2) === 2 ? $at[3 * $c + 1] : 1.0 - $at[3 * $c + 1]) * (($o & 4) === 4 ? $at[3 * $c + 2] : 1.0 - $at[3 * $c + 2]);
                $diagonal[$v] += $weight[$c] * $phi * $phi;
            }
        }

        return $diagonal;
    }
}
