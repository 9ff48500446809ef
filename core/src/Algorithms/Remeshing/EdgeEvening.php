<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;

/**
 * Makes the edges of a mesh as long as the sizes at their ends say, and the numbers of neighbours even: splits, collapses and flips that leave the surface and its features where they are.
 *
 * Source    Botsch & Kobbelt 2004.
 *
 * @internal
 */
final class EdgeEvening
{
    /** Edges longer than this times the size asked for are split, shorter than the next are collapsed: Botsch & Kobbelt show that both then come nearer to it. */
    private const LONG = 1.3333333;

    private const SHORT = 0.8;

    /** Cosine that normals of faces keep to their own of before, when a vertex is merged into another. */
    public const KEEPS = 0.5;

    /** The same when an edge is flipped: it must lie along the surface. */
    private const FLAT = 0.9;

    /** Of the sum of the sizes of two corners: nearer than this they are one. */
    private const ONE = 0.02;

    /** Height of a face over its edge, as a share of that, below which it is a sliver whose normal says nothing. */
    private const SLIVER = 0.06;

    /** @var array<int, float> four numbers a face, the first three its normal when a round of collapses began */
    private array $normals = [];

    /** @var array<int, true>|null vertices that may change, new ones among them; null for all */
    public ?array $active = null;

    public function __construct(private readonly EditableMesh $mesh)
    {
    }

    /** Splits what is longer than LONG times the mean size of its ends, until none is left. */
    public function split(): void
    {
        do {
            $before = count($this->mesh->out);
            $this->splitOnce();
        } while (count($this->mesh->out) > $before);
    }

    /** One look at every edge, new ones in their turn; one beside a longer edge is left for the next. */
    private function splitOnce(): void
    {
        $mesh = $this->mesh;
        $limit = 0.25 * self::LONG * self::LONG;
        $active = $this->active;
        for ($h = 0; $h < count($mesh->corners); $h++) {
            if (($h & 3) === 3 || $mesh->corners[$h | 3] === 0 || $mesh->twins[$h] > $h) {
                continue;
            }
            $V = &$mesh->vertices;
            $a = $mesh->corners[$h] << 2;
            $b = $mesh->corners[($h & 3) === 2 ? $h - 2 : $h + 1] << 2;
            $x = $V[$a] - $V[$b];
            $y = $V[$a + 1] - $V[$b + 1];
            $z = $V[$a + 2] - $V[$b + 2];
            $s = $V[$a + 3] + $V[$b + 3];
            if ($x * $x + $y * $y + $z * $z > $limit * $s * $s) {
                // Beside a longer edge that may not be split, halving would have no end.
                if (! $this->isLongest($h)) {
                    continue;
                }
                if ($active !== null) {
                    if (! isset($active[$a >> 2], $active[$b >> 2])) {
                        continue;
                    }
                    $active[count($mesh->out)] = true;
                }
                $mesh->split($h);
                // What is left of it may still be too long.
                $h--;
            }
        }
        $this->active = $active;
    }

    /** Is no other edge of its faces longer? */
    private function isLongest(int $h): bool
    {
        $most = 0.9999 * $this->mesh->lengthSq($h);
        foreach ([$h, $this->mesh->twins[$h]] as $e) {
            if ($e >= 0 && ($this->mesh->lengthSq(EditableMesh::next($e)) * 0.9998 > $most || $this->mesh->lengthSq(EditableMesh::previous($e)) * 0.9998 > $most)) {
                return false;
            }
        }

        return true;
    }

    /** Collapses what is shorter than SHORT times the mean size of its ends, where the surface stays what it is and no edge becomes too long. */
    public function collapse(): void
    {
        $mesh = $this->mesh;
        $limit = 0.25 * self::SHORT * self::SHORT;
        $this->normals = $mesh->normals();
        $active = $this->active;
        for ($h = 0, $e = count($mesh->corners); $h < $e; $h++) {
            $g = $mesh->twins[$h];
            if (($h & 3) === 3 || $mesh->corners[$h | 3] === 0 || $g > $h) {
                continue;
            }
            $a = $mesh->corners[$h];
            $b = $mesh->corners[($h & 3) === 2 ? $h - 2 : $h + 1];
            $i = $a << 2;
            $j = $b << 2;
            $x = $mesh->vertices[$i] - $mesh->vertices[$j];
            $y = $mesh->vertices[$i + 1] - $mesh->vertices[$j + 1];
            $z = $mesh->vertices[$i + 2] - $mesh->vertices[$j + 2];
            $s = $mesh->vertices[$i + 3] + $mesh->vertices[$j + 3];
            if ($x * $x + $y * $y + $z * $z >= $limit * $s * $s || ($active !== null && ! isset($active[$a], $active[$b]))) {
                continue;
            }
            // Whoever is freer goes: inside, on a feature or at a rim, a corner.
            $free = ($mesh->flags[$a] & EditableMesh::CORNER) !== 0 ? 2 : ($mesh->flags[$a] !== 0 ? 1 : 0);
            $other = ($mesh->flags[$b] & EditableMesh::CORNER) !== 0 ? 2 : ($mesh->flags[$b] !== 0 ? 1 : 0);
            if ($free > $other) {
                if ($g < 0) {
                    continue;
                }
                $from = $g;
                $least = $other;
            } else {
                $from = $h;
                $least = $free;
            }
            // On a feature or at a rim only along it; corners that lie on each other are one.
            if (($least === 2 && $x * $x + $y * $y + $z * $z > self::ONE * self::ONE * $s * $s) || ($least === 1 && $mesh->features[$h] === 0 && $g >= 0)) {
                continue;
            }
            $middle = $free === 0 && $other === 0;
            if ($this->mayCollapse($from, $middle)) {
                if ($middle) {
                    $mesh->vertices[$j] += 0.5 * $x;
                    $mesh->vertices[$j + 1] += 0.5 * $y;
                    $mesh->vertices[$j + 2] += 0.5 * $z;
                }
                $mesh->collapse($from);
            }
        }
    }

    /**
     * @param  bool  $middle  both ends go to the middle of the edge; else the start goes to the end
     */
    private function mayCollapse(int $h, bool $middle): bool
    {
        $mesh = $this->mesh;
        if (! $mesh->canCollapse($h)) {
            return false;
        }
        $i = $mesh->corners[$h] << 2;
        $j = $mesh->corners[($h & 3) === 2 ? $h - 2 : $h + 1] << 2;
        $x = $mesh->vertices[$j];
        $y = $mesh->vertices[$j + 1];
        $z = $mesh->vertices[$j + 2];
        if ($middle) {
            $x = 0.5 * ($x + $mesh->vertices[$i]);
            $y = 0.5 * ($y + $mesh->vertices[$i + 1]);
            $z = 0.5 * ($z + $mesh->vertices[$i + 2]);
        }

        return $this->fanKeeps($i >> 2, $j >> 2, $x, $y, $z) && (! $middle || $this->fanKeeps($j >> 2, $i >> 2, $x, $y, $z));
    }

    /** Do the faces around a vertex, but those of its edge to another, keep their side and no edge become too long when it goes to a place? */
    private function fanKeeps(int $v, int $but, float $x, float $y, float $z): bool
    {
        $mesh = $this->mesh;
        $C = &$mesh->corners;
        $V = &$mesh->vertices;
        $own = $V[4 * $v + 3];
        $N = &$this->normals;
        $limit = 0.25 * self::LONG * self::LONG;
        $h = $first = $mesh->out[$v];
        do {
            $n = ($h & 3) === 2 ? $h - 2 : $h + 1;
            $q = ($h & 3) === 0 ? $h + 2 : $h - 1;
            $b = $C[$n];
            $c = $C[$q];
            if ($b !== $but) {
                $b <<= 2;
                $bx = $V[$b];
                $by = $V[$b + 1];
                $bz = $V[$b + 2];
                $dx = $bx - $x;
                $dy = $by - $y;
                $dz = $bz - $z;
                $s = $own + $V[$b + 3];
                if ($dx * $dx + $dy * $dy + $dz * $dz > $limit * $s * $s) {
                    return false;
                }
                if ($c !== $but) {
                    $c <<= 2;
                    $ux = $V[$c] - $bx;
                    $uy = $V[$c + 1] - $by;
                    $uz = $V[$c + 2] - $bz;
                    // The face as it would be, against what it was when the round began: many small turns must not add up to a fold.
                    $o = $h & ~3;
                    $nx = $N[$o];
                    $ny = $N[$o + 1];
                    $nz = $N[$o + 2];
                    $mx = $uz * $dy - $uy * $dz;
                    $my = $ux * $dz - $uz * $dx;
                    $mz = $uy * $dx - $ux * $dy;
                    $dot = $nx * $mx + $ny * $my + $nz * $mz;
                    if ($dot <= 0.0 || $dot * $dot < self::KEEPS * self::KEEPS * ($nx * $nx + $ny * $ny + $nz * $nz) * ($mx * $mx + $my * $my + $mz * $mz)) {
                        return false;
                    }
                }
            }
            $h = $mesh->twins[$q];
        } while ($h >= 0 && $h !== $first);

        return true;
    }

    /** Flips edges where that brings the numbers of neighbours nearer to six, four at rims, and the surface stays as it lies. */
    public function flip(): void
    {
        $mesh = $this->mesh;
        $valence = array_fill(0, count($mesh->out), 0);
        for ($o = 0, $e = count($mesh->corners); $o < $e; $o += 4) {
            if ($mesh->corners[$o + 3] !== 0) {
                $valence[$mesh->corners[$o]]++;
                $valence[$mesh->corners[$o + 1]]++;
                $valence[$mesh->corners[$o + 2]]++;
            }
        }
        $active = $this->active;
        // At a rim there is one face less than edges: what is missing to the number wished for.
        foreach ($mesh->flags as $v => $flags) {
            $valence[$v] -= ($flags & EditableMesh::AT_RIM) !== 0 ? 3 : 6;
        }
        for ($h = 0; $h < $e; $h++) {
            $g = $mesh->twins[$h];
            if (($h & 3) === 3 || $g > $h || $g < 0 || $mesh->corners[$h | 3] === 0 || $mesh->features[$h] !== 0) {
                continue;
            }
            $a = $mesh->corners[$h];
            $b = $mesh->corners[$g];
            $c = $mesh->corners[($h & 3) === 0 ? $h + 2 : $h - 1];
            $d = $mesh->corners[($g & 3) === 0 ? $g + 2 : $g - 1];
            if ($active !== null && ! isset($active[$a], $active[$b])) {
                continue;
            }
            // Of the sum of squares: one less each at a and b, one more at c and d.
            $gain = $valence[$a] + $valence[$b] - $valence[$c] - $valence[$d] - 2;
            if ($this->isBetterFlipped($a, $b, $c, $d, $gain > 0) && $mesh->canFlip($h)) {
                $mesh->flip($h);
                $valence[$a]--;
                $valence[$b]--;
                $valence[$c]++;
                $valence[$d]++;
            }
        }
    }

    /**
     * Are the faces d c a and c d b better than a b c and b a d: because one of these is so flat over the edge a b that it looks nowhere, or, where numbers of neighbours become more
     * even, because they lie along the surface as well?
     */
    private function isBetterFlipped(int $a, int $b, int $c, int $d, bool $isMoreEven): bool
    {
        $V = &$this->mesh->vertices;
        $a <<= 2;
        $b <<= 2;
        $c <<= 2;
        $d <<= 2;
        $ux = $V[$b] - $V[$a];
        $uy = $V[$b + 1] - $V[$a + 1];
        $uz = $V[$b + 2] - $V[$a + 2];
        $cx = $V[$c] - $V[$a];
        $cy = $V[$c + 1] - $V[$a + 1];
        $cz = $V[$c + 2] - $V[$a + 2];
        $dx = $V[$d] - $V[$a];
        $dy = $V[$d + 1] - $V[$a + 1];
        $dz = $V[$d + 2] - $V[$a + 2];
        // Normals of the faces as they are, twice their areas long.
        $mx = $uy * $cz - $uz * $cy;
        $my = $uz * $cx - $ux * $cz;
        $mz = $ux * $cy - $uy * $cx;
        $nx = $dy * $uz - $dz * $uy;
        $ny = $dz * $ux - $dx * $uz;
        $nz = $dx * $uy - $dy * $ux;
        $m = $mx * $mx + $my * $my + $mz * $mz;
        $n = $nx * $nx + $ny * $ny + $nz * $nz;
        $least = $m < $n ? $m : $n;
        $length = $ux * $ux + $uy * $uy + $uz * $uz;
        $isSliver = $least <= self::SLIVER * self::SLIVER * $length * $length;
        if (! $isSliver && ! $isMoreEven) {
            return false;
        }
        // And as they would be: a d c, and d b c.
        $px = $dy * $cz - $dz * $cy;
        $py = $dz * $cx - $dx * $cz;
        $pz = $dx * $cy - $dy * $cx;
        $ex = $ux - $dx;
        $ey = $uy - $dy;
        $ez = $uz - $dz;
        $wx = $cx - $dx;
        $wy = $cy - $dy;
        $wz = $cz - $dz;
        $qx = $ey * $wz - $ez * $wy;
        $qy = $ez * $wx - $ex * $wz;
        $qz = $ex * $wy - $ey * $wx;
        $p = $px * $px + $py * $py + $pz * $pz;
        $q = $qx * $qx + $qy * $qy + $qz * $qz;
        if ($isSliver && $p > 4.0 * $least && $q > 4.0 * $least) {
            // What the larger of both looks at is right.
            [$x, $y, $z] = $m > $n ? [$mx, $my, $mz] : [$nx, $ny, $nz];
            if ($px * $x + $py * $y + $pz * $z > 0.0 && $qx * $x + $qy * $y + $qz * $z > 0.0) {
                return true;
            }
        }
        $x = $mx + $nx;
        $y = $my + $ny;
        $z = $mz + $nz;
        $all = sqrt($x * $x + $y * $y + $z * $z);
        $p = sqrt($p);
        $q = sqrt($q);

        return $isMoreEven && $px * $x + $py * $y + $pz * $z > self::FLAT * $p * $all && $qx * $x + $qy * $y + $qz * $z > self::FLAT * $q * $all && $p > 0.1 * $q && $q > 0.1 * $p;
    }
}
