<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * How far single places of a surface are off for noise alone, and what that makes of a largest value among many: one standard deviation, mm.
 *
 * Source    noise: what vertices miss a quadric by that is fitted to those around; extremes of N independent normal values: Cramer 1946, "Mathematical Methods of Statistics", 28.6 (expected largest value).
 * Error     waves longer than some six edges count as shape. Those that come from the passes are told by ScanError.
 * Cost      about 140 us a place, once 1 us a vertex.
 */
final class SurfaceNoise
{
    /** Vertices within this many edges of a place are looked at: some thirty. */
    private const REACH = 3.0;

    /** Cosine of the angle up to which a vertex looks the same way as the place: one on the other side of a thin wall does not count. */
    private const SAME_WAY = 0.5;

    /** Unknowns of a quadric over a plane, and the least number of vertices that it is fitted to. */
    private const FREE = 6;

    private const FEWEST = 12;

    /** Places at which the noise of a whole surface is looked at. */
    private const PLACES = 300;

    /** Standard deviation of the largest of many normal values, as a share of one of them: between 0.6 for ten and 0.35 for ten thousand. */
    private const OF_LARGEST = 0.5;

    private const EULER = 0.5772156649;

    /** @var list<float> flat xyz, of length 1 or 0 */
    private readonly array $normals;

    private readonly LatticeKeys $lattice;

    /** @var array<int, list<int>> vertices by cell */
    private array $cells = [];

    /** Radius in which vertices count, mm. */
    private readonly float $reach;

    public function __construct(private readonly TriangleMesh $mesh)
    {
        $this->normals = Measure::vertexNormals($mesh->positions, $mesh->faces);
        $this->reach = max(1e-12, self::REACH * ($mesh->faces === [] ? 0.0 : Measure::typicalEdge($mesh->positions, $mesh->faces)));
        $this->lattice = LatticeKeys::of($mesh->positions, $this->reach);
        for ($v = 0, $o = 0, $n = $mesh->vertexCount(); $v < $n; $v++, $o += 3) {
            $this->cells[$this->lattice->at($mesh->positions[$o], $mesh->positions[$o + 1], $mesh->positions[$o + 2])][] = $v;
        }
    }

    /**
     * Of one vertex near a place on the surface.
     *
     * @param  array{float, float, float}  $place
     * @param  array{float, float, float}  $normal  of the surface there, of length 1
     * @return float|null null where there are too few vertices around to tell
     */
    public function at(array $place, array $normal): ?float
    {
        $around = $this->around($place, $normal);
        $count = count($around);
        if ($count < self::FEWEST) {
            return null;
        }
        [$u, $v] = Vector3::square($normal);
        $rows = $heights = [];
        $a = array_fill(0, self::FREE ** 2, 0.0);
        $b = array_fill(0, self::FREE, 0.0);
        foreach ($around as $vertex) {
            $way = array_map(fn (float $one) => $one / $this->reach, Vector3::minus($this->vertex($vertex), $place));
            [$x, $y] = [Vector3::dot($way, $u), Vector3::dot($way, $v)];
            $row = [1.0, $x, $y, $x * $x, $x * $y, $y * $y];
            $height = Vector3::dot($way, $normal);
            foreach ($row as $i => $one) {
                $b[$i] += $one * $height;
                foreach ($row as $j => $other) {
                    $a[$i * self::FREE + $j] += $one * $other;
                }
            }
            $rows[] = $row;
            $heights[] = $height;
        }
        $quadric = Dense::solve($a, $b, self::FREE);
        if ($quadric === null) {
            return null;
        }
        $sum = 0.0;
        foreach ($rows as $k => $row) {
            $sum += ($heights[$k] - array_sum(array_map(fn (float $one, float $c) => $one * $c, $row, $quadric))) ** 2;
        }

        return $this->reach * sqrt($sum / ($count - self::FREE));
    }

    /** Of one vertex anywhere: the middle one of many places, so that edges, which no quadric follows, do not count. Null where it cannot be told. */
    public function typical(): ?float
    {
        $n = $this->mesh->vertexCount();
        $found = [];
        for ($v = 0; $v < $n; $v += max(1, intdiv($n, self::PLACES))) {
            $one = $this->at($this->vertex($v), $this->normal($v));
            $one === null || $found[] = $one;
        }
        sort($found);

        return $found[intdiv(count($found), 2)] ?? null;
    }

    /** Expected largest of many independent normal values of standard deviation 1. */
    public static function largest(int $count): float
    {
        if ($count < 2) {
            return 0.0;
        }
        $root = sqrt(2.0 * log($count));

        return max(0.0, $root - (log(max(log($count), 1e-9)) + log(4.0 * M_PI) - 2.0 * self::EULER) / (2.0 * $root));
    }

    /**
     * The standard deviation to tell of what lies between the lowest and the highest of many places (their number in $counts, several where the largest of several such spans is taken) so that twice that holds
     * the whole span that noise of standard deviation 1 makes of a perfect shape, and in 95 of 100 cases.
     *
     * @param  non-empty-list<int>  $counts
     */
    public static function ofSpan(array $counts): float
    {
        $margin = self::OF_LARGEST * M_SQRT2;

        return 0.5 * (2.0 * self::largest(max($counts)) + $margin * (2.0 + self::largest(count($counts))));
    }

    /**
     * @param  array{float, float, float}  $place
     * @param  array{float, float, float}  $normal
     * @return list<int> vertices
     */
    private function around(array $place, array $normal): array
    {
        [$x, $y, $z] = $place;
        $cell = $this->lattice->at($x, $y, $z);
        $p = $this->mesh->positions;
        $found = [];
        for ($i = -1; $i <= 1; $i++) {
            for ($j = -1; $j <= 1; $j++) {
                for ($k = -1; $k <= 1; $k++) {
                    foreach ($this->cells[$cell + $i * $this->lattice->layer + $j * $this->lattice->row + $k] ?? [] as $v) {
                        $isNear = ($p[3 * $v] - $x) ** 2 + ($p[3 * $v + 1] - $y) ** 2 + ($p[3 * $v + 2] - $z) ** 2 <= $this->reach ** 2;
                        if ($isNear && Vector3::dot($this->normal($v), $normal) >= self::SAME_WAY) {
                            $found[] = $v;
                        }
                    }
                }
            }
        }

        return $found;
    }

    /** @return array{float, float, float} */
    private function vertex(int $v): array
    {
        return [$this->mesh->positions[3 * $v], $this->mesh->positions[3 * $v + 1], $this->mesh->positions[3 * $v + 2]];
    }

    /** @return array{float, float, float} */
    private function normal(int $v): array
    {
        return [$this->normals[3 * $v], $this->normals[3 * $v + 1], $this->normals[3 * $v + 2]];
    }
}
