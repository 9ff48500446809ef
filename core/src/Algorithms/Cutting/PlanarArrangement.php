<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

/**
 * Straight lines on a lattice of whole numbers, parted where they meet, and how often each side of them is wound around.
 *
 * Every line carries a weight: how much more often its left side is wound around than its right one. Lines must close: at every node the weights that leave are those that arrive.
 *
 * Method    rounding of crossings to the lattice, again and again until nothing crosses (iterated snap rounding: Hobby 1999; Halperin and Packer 2002); windings are carried from node to node, and between lines
 *           that do not hang together by what lies straight below.
 * Error     every turn is decided exactly; a line moves by less than a step of the lattice in each round.
 * Cost      lines are compared cell by cell, so with the crossings where lengths are alike.
 *
 * @internal
 */
final class PlanarArrangement
{
    /** Coordinates lie within 0 and this, so that products of two differences fit a whole number of 64 bits. */
    public const REACH = 1 << 28;

    /** Rounds until nothing crosses: three to six are the rule. */
    private const ROUNDS = 100;

    /** Steps of the lattice: a line that comes nearer to a node is led through it, or rounding would make new crossings beside old ones without end. */
    private const NEAR = 0.6;

    /** Cells along a side at most. */
    private const CELLS = 1 << 14;

    /** @var list<int> of each node */
    public array $x = [];

    /** @var list<int> */
    public array $y = [];

    /** @var list<int> of each line: where it begins */
    public array $from = [];

    /** @var list<int> where it ends */
    public array $to = [];

    /** @var list<int> */
    public array $weight = [];

    /** @var array<int, true> lines that were not there in the round before; the others are known not to meet each other */
    private array $fresh = [];

    /** @var array<int, int> node by place */
    private array $nodeAt = [];

    /** The node at a place; a new one where there is none. */
    public function node(int $x, int $y): int
    {
        $key = ($x << 29) | $y;
        if (isset($this->nodeAt[$key])) {
            return $this->nodeAt[$key];
        }
        $this->x[] = $x;
        $this->y[] = $y;

        return $this->nodeAt[$key] = count($this->x) - 1;
    }

    /** A line from a node to another. All that is added must close: see the head. */
    public function add(int $from, int $to, int $weight): void
    {
        $this->from[] = $from;
        $this->to[] = $to;
        $this->weight[] = $weight;
    }

    /**
     * Parts the lines until they meet at nodes alone, one line between two nodes at most. Lines whose sides are wound around alike vanish.
     */
    public function settle(): void
    {
        $this->part([]);
        $this->fresh = array_fill(0, count($this->from), true);
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $meets = $this->meets();
            $this->part($meets);
            if ($meets === []) {
                return;
            }
        }
        throw new \LogicException('The lines of a drawing still cross after '.self::ROUNDS.' rounds of rounding.');
    }

    /** @return array<int, list<int>> of each line that meets another between its ends, the nodes there */
    private function meets(): array
    {
        $ax = $ay = $bx = $by = $lowX = $highX = $lowY = $highY = [];
        [$x, $y] = [$this->x, $this->y];
        foreach ($this->from as $k => $a) {
            $b = $this->to[$k];
            $ax[] = $x[$a];
            $ay[] = $y[$a];
            $bx[] = $x[$b];
            $by[] = $y[$b];
            $lowX[] = min($x[$a], $x[$b]);
            $highX[] = max($x[$a], $x[$b]);
            $lowY[] = min($y[$a], $y[$b]);
            $highY[] = max($y[$a], $y[$b]);
        }
        $meets = [];
        foreach ($this->cells() as $lines) {
            foreach ($lines as $at => $i) {
                [$x0, $y0, $x1, $y1] = [$ax[$i], $ay[$i], $bx[$i], $by[$i]];
                $ux = $x1 - $x0;
                $uy = $y1 - $y0;
                $near = self::NEAR * sqrt((float) ($ux * $ux + $uy * $uy));
                $isFresh = isset($this->fresh[$i]);
                [$left, $right, $low, $high] = [$lowX[$i] - 1, $highX[$i] + 1, $lowY[$i] - 1, $highY[$i] + 1];
                for ($q = $at + 1, $n = count($lines); $q < $n; $q++) {
                    $j = $lines[$q];
                    if ($lowX[$j] > $right || $highX[$j] < $left || $lowY[$j] > $high || $highY[$j] < $low || ! ($isFresh || isset($this->fresh[$j]))) {
                        continue;
                    }
                    [$x2, $y2, $x3, $y3] = [$ax[$j], $ay[$j], $bx[$j], $by[$j]];
                    $c = $ux * ($y2 - $y0) - $uy * ($x2 - $x0);
                    $d = $ux * ($y3 - $y0) - $uy * ($x3 - $x0);
                    if (($c > $near && $d > $near) || ($c < -$near && $d < -$near)) {
                        continue;
                    }
                    $vx = $x3 - $x2;
                    $vy = $y3 - $y2;
                    $nearOther = self::NEAR * sqrt((float) ($vx * $vx + $vy * $vy));
                    $e = $vx * ($y0 - $y2) - $vy * ($x0 - $x2);
                    $f = $vx * ($y1 - $y2) - $vy * ($x1 - $x2);
                    if (($e > $nearOther && $f > $nearOther) || ($e < -$nearOther && $f < -$nearOther)) {
                        continue;
                    }
                    [$p, $o, $r, $s] = [$this->from[$i], $this->to[$i], $this->from[$j], $this->to[$j]];
                    $isApart = true;
                    if (abs($c) <= $near && $r !== $p && $r !== $o && self::isBeside($ux, $uy, $x2 - $x0, $y2 - $y0)) {
                        $meets[$i][] = $r;
                        $isApart = false;
                    }
                    if (abs($d) <= $near && $s !== $p && $s !== $o && self::isBeside($ux, $uy, $x3 - $x0, $y3 - $y0)) {
                        $meets[$i][] = $s;
                        $isApart = false;
                    }
                    if (abs($e) <= $nearOther && $p !== $r && $p !== $s && self::isBeside($vx, $vy, $x0 - $x2, $y0 - $y2)) {
                        $meets[$j][] = $p;
                        $isApart = false;
                    }
                    if (abs($f) <= $nearOther && $o !== $r && $o !== $s && self::isBeside($vx, $vy, $x1 - $x2, $y1 - $y2)) {
                        $meets[$j][] = $o;
                        $isApart = false;
                    }
                    // Led through a node they are looked at again in the next round.
                    if ($isApart && ($c > 0) !== ($d > 0) && ($e > 0) !== ($f > 0) && $c !== 0 && $d !== 0 && $e !== 0 && $f !== 0) {
                        $t = $e / ($e - $f);
                        $node = $this->node($x0 + (int) round($t * $ux), $y0 + (int) round($t * $uy));
                        // Rounded to an end of one of the lines, it parts the other one alone.
                        $node === $p || $node === $o || $meets[$i][] = $node;
                        $node === $r || $node === $s || $meets[$j][] = $node;
                    }
                }
            }
        }

        return $meets;
    }

    /** Whether a place (from where a line begins) lies beside it: square to it there is a point between its ends. */
    private static function isBeside(int $ux, int $uy, int $x, int $y): bool
    {
        $along = $ux * $x + $uy * $y;

        return $along > 0 && $along < $ux * $ux + $uy * $uy;
    }

    /** @return array<int, list<int>> the lines that come through each cell of a raster, or near it; cells without a fresh line are left out */
    private function cells(): array
    {
        $side = $this->across();
        $size = intdiv(self::REACH, $side) + 1;
        $cells = [];
        foreach ($this->fresh as $k => $_) {
            foreach ($this->through($k, $size, $side) as $cell) {
                $cells[$cell] = [];
            }
        }
        foreach ($this->from as $k => $a) {
            foreach ($this->through($k, $size, $side) as $cell) {
                if (isset($cells[$cell])) {
                    $cells[$cell][] = $k;
                }
            }
        }

        return $cells;
    }

    /** @return list<int> the cells that a line comes through, and those that it comes nearer to than two steps */
    private function through(int $line, int $size, int $side): array
    {
        [$a, $b] = $this->y[$this->from[$line]] <= $this->y[$this->to[$line]] ? [$this->from[$line], $this->to[$line]] : [$this->to[$line], $this->from[$line]];
        [$x0, $y0, $x1, $y1] = [$this->x[$a], $this->y[$a], $this->x[$b], $this->y[$b]];
        $first = intdiv(max(0, $y0 - 2), $size);
        $last = intdiv($y1 + 2, $size);
        $slope = $first === $last ? 0.0 : ($x1 - $x0) / max(1, $y1 - $y0);
        $cells = [];
        for ($row = $first; $row <= $last; $row++) {
            $enter = $row === $first ? $x0 : $x0 + (int) ($slope * max(0, $row * $size - $y0 - 2));
            $leave = $row === $last ? $x1 : $x0 + (int) ($slope * min($y1 - $y0, ($row + 1) * $size - $y0 + 2));
            $column = intdiv(max(0, min($enter, $leave) - 3), $size);
            for ($end = intdiv(max($enter, $leave) + 3, $size); $column <= $end; $column++) {
                $cells[] = $row * ($side + 1) + $column;
            }
        }

        return $cells;
    }

    /** Cells along a side: about as large as lines are long, or, where a few lines are long, as many as lines would fill. */
    private function across(): int
    {
        $sum = 0.0;
        foreach ($this->from as $k => $a) {
            $b = $this->to[$k];
            $sum += abs($this->x[$a] - $this->x[$b]) + abs($this->y[$a] - $this->y[$b]);
        }
        $lines = max(1, count($this->from));

        return max(1, min(self::CELLS, (int) ceil(self::REACH / max(1.0, $sum / $lines)), 8 * (int) ceil(sqrt($lines))));
    }

    /** @param  array<int, list<int>>  $meets */
    private function part(array $meets): void
    {
        $net = $old = [];
        foreach ($this->from as $k => $a) {
            $nodes = [$a, $this->to[$k]];
            if (isset($meets[$k])) {
                $ways = [];
                $ux = $this->x[$this->to[$k]] - $this->x[$a];
                $uy = $this->y[$this->to[$k]] - $this->y[$a];
                foreach ($meets[$k] as $node) {
                    $ways[$node] = $ux * ($this->x[$node] - $this->x[$a]) + $uy * ($this->y[$node] - $this->y[$a]);
                }
                asort($ways);
                $nodes = [$a, ...array_keys($ways), $this->to[$k]];
            }
            for ($i = 1, $n = count($nodes); $i < $n; $i++) {
                [$p, $q] = [$nodes[$i - 1], $nodes[$i]];
                $key = $p < $q ? ($p << 31) | $q : ($q << 31) | $p;
                $net[$key] = ($net[$key] ?? 0) + ($p < $q ? $this->weight[$k] : -$this->weight[$k]);
                if ($n === 2) {
                    $old[$key] = true;
                }
            }
        }
        $this->from = $this->to = $this->weight = $this->fresh = [];
        foreach ($net as $key => $weight) {
            if ($weight !== 0) {
                $this->from[] = $key >> 31;
                $this->to[] = $key & 0x7FFFFFFF;
                $this->weight[] = $weight;
                if (! isset($old[$key])) {
                    $this->fresh[count($this->from) - 1] = true;
                }
            }
        }
    }

    /**
     * How often the left side of every settled line is wound around.
     *
     * @return list<int> on the right it is less by the weight
     */
    public function windings(): array
    {
        $leaving = $this->leaving();
        $winding = array_fill(0, count($this->from), null);
        // Beginning with the leftmost node of all, and then of what is left: what lies straight below such a node reaches farther to the left, so it is known by then.
        $order = array_keys($leaving);
        usort($order, fn (int $a, int $b) => $this->x[$a] <=> $this->x[$b] ?: $this->y[$a] <=> $this->y[$b]);
        $below = null;
        $reached = [];
        foreach ($order as $start) {
            if (isset($reached[$start])) {
                continue;
            }
            $below ??= $this->byColumn();
            // What is on the right of the first line against the clock from straight down is what lies to the left of the node.
            $this->carry($start, $leaving[$start][0], $reached === [] ? 0 : $this->above($start, $below, $winding), $leaving, $winding, $reached);
        }

        return array_map(fn (?int $one) => $one ?? 0, $winding);
    }

    /** @return array<int, list<int>> of each node the lines there, against the clock from straight down: k where line k begins there, ~k where it ends */
    public function leaving(): array
    {
        $leaving = [];
        foreach ($this->from as $k => $a) {
            $leaving[$a][] = $k;
            $leaving[$this->to[$k]][] = ~$k;
        }
        foreach ($leaving as $node => $lines) {
            $ways = [];
            foreach ($lines as $line) {
                $other = $line >= 0 ? $this->to[$line] : $this->from[~$line];
                $ways[$line] = [$this->x[$other] - $this->x[$node], $this->y[$other] - $this->y[$node]];
            }
            uasort($ways, function (array $a, array $b): int {
                // The right half comes first: from straight down up to, and without, straight up.
                $isLeftA = $a[0] < 0 || ($a[0] === 0 && $a[1] > 0);
                $isLeftB = $b[0] < 0 || ($b[0] === 0 && $b[1] > 0);

                return $isLeftA !== $isLeftB ? $isLeftA <=> $isLeftB : ($a[1] * $b[0]) <=> ($a[0] * $b[1]);
            });
            $leaving[$node] = array_keys($ways);
        }

        return $leaving;
    }

    /**
     * From a node along all lines that hang together with it.
     *
     * @param  int  $line  one that leaves the node (see leaving)
     * @param  int  $right  the winding on its right side, as it leaves
     * @param  array<int, list<int>>  $leaving
     * @param  array<int, int|null>  $winding  filled
     * @param  array<int, true>  $reached  nodes, filled
     */
    private function carry(int $node, int $line, int $right, array $leaving, array &$winding, array &$reached): void
    {
        $stack = [[$node, $line, $right]];
        $reached[$node] = true;
        while ($stack !== []) {
            [$node, $first, $right] = array_pop($stack);
            $lines = $leaving[$node];
            $n = count($lines);
            $at = array_search($first, $lines, true);
            for ($i = 0; $i < $n; $i++) {
                $line = $lines[($at + $i) % $n];
                $k = $line >= 0 ? $line : ~$line;
                $left = $right + ($line >= 0 ? $this->weight[$k] : -$this->weight[$k]);
                $winding[$k] = $line >= 0 ? $left : $right;
                $other = $line >= 0 ? $this->to[$k] : $this->from[$k];
                if (! isset($reached[$other])) {
                    $reached[$other] = true;
                    // As it leaves there, its sides are the other way round.
                    $stack[] = [$other, ~$line, $left];
                }
                $right = $left;
            }
        }
    }

    /** @return array{size: int, lines: array<int, list<int>>} lines that are not upright, by the columns that they come through */
    private function byColumn(): array
    {
        $size = intdiv(self::REACH, $this->across()) + 1;
        $lines = [];
        foreach ($this->from as $k => $a) {
            [$x0, $x1] = [$this->x[$a], $this->x[$this->to[$k]]];
            if ($x0 !== $x1) {
                for ($c = intdiv(min($x0, $x1), $size), $last = intdiv(max($x0, $x1), $size); $c <= $last; $c++) {
                    $lines[$c][] = $k;
                }
            }
        }

        return ['size' => $size, 'lines' => $lines];
    }

    /**
     * The winding around a node, from the line straight below it.
     *
     * @param  array{size: int, lines: array<int, list<int>>}  $columns
     * @param  array<int, int|null>  $winding
     */
    private function above(int $node, array $columns, array $winding): int
    {
        [$x, $y] = [$this->x[$node], $this->y[$node]];
        $best = null;
        foreach ($columns['lines'][intdiv($x, $columns['size'])] ?? [] as $k) {
            if ($winding[$k] === null) {
                continue;
            }
            [$left, $right] = $this->ends($k);
            // To the left end it belongs, to the right one it does not: of two lines that follow each other, one.
            if ($this->x[$left] <= $x && $this->x[$right] > $x && $this->turn($left, $right, $node) > 0 && ($best === null || $this->isAbove($k, $best))) {
                $best = $k;
            }
        }
        if ($best === null) {
            return 0;
        }

        return $winding[$best] - ($this->ends($best)[0] === $this->from[$best] ? 0 : $this->weight[$best]);
    }

    /** @return array{int, int} the left node and the right one */
    private function ends(int $line): array
    {
        return $this->x[$this->from[$line]] < $this->x[$this->to[$line]] ? [$this->from[$line], $this->to[$line]] : [$this->to[$line], $this->from[$line]];
    }

    /** Whether a line lies above another where both are: they do not cross. */
    private function isAbove(int $line, int $other): bool
    {
        [$a, $b] = $this->ends($line);
        [$c, $d] = $this->ends($other);
        if ($a === $c) {
            return $this->turn($c, $d, $b) > 0;
        }

        return $this->x[$a] >= $this->x[$c] ? $this->turn($c, $d, $a) > 0 : $this->turn($a, $b, $c) < 0;
    }

    /** More than 0 where a node lies on the left of the way from one to another. */
    private function turn(int $from, int $to, int $node): int
    {
        return ($this->x[$to] - $this->x[$from]) * ($this->y[$node] - $this->y[$from]) - ($this->y[$to] - $this->y[$from]) * ($this->x[$node] - $this->x[$from]);
    }
}
