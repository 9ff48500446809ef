<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\Vector3;

/**
 * Places where a wall has two layers: whoever leaves one of them outwards comes to the back of another at once. Leaving the surface of a sound body one can only
 * come to the front of something.
 *
 * @internal
 */
final class InnerLayers
{
    /** Typical edges: layers that are farther apart are walls of their own. */
    private const REACH = 4.0;

    /** What is met nearer than this share of the reach is the face itself. */
    private const ITSELF = 1e-4;

    /** As many faces as are asked, evenly over the mesh. */
    private const ASKED = 100000;

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  int|null  $every  steps by which faces are asked; unless told, what every() finds enough
     * @return list<int> faces of the inner layer, of those that were asked
     */
    public static function of(array $p, array $f, ?int $every = null): array
    {
        if ($f === []) {
            return [];
        }
        $reach = self::REACH * Measure::typicalEdge($p, $f);
        $every ??= self::every(intdiv(count($f), 3));
        $rays = $asked = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3 * $every) {
            $normal = self::normal($p, $f, $o);
            if ($normal === null) {
                continue;
            }
            [$a, $b, $c] = [3 * $f[$o], 3 * $f[$o + 1], 3 * $f[$o + 2]];
            array_push($rays, ($p[$a] + $p[$b] + $p[$c]) / 3.0, ($p[$a + 1] + $p[$b + 1] + $p[$c + 1]) / 3.0, ($p[$a + 2] + $p[$b + 2] + $p[$c + 2]) / 3.0, ...Vector3::scaled($normal, $reach));
            $asked[] = $o;
        }
        $hit = $way = [];
        TriangleBvh::of($p, $f)->firstAlong($rays, $hit, $way, self::ITSELF);
        $faces = [];
        foreach ($asked as $k => $o) {
            $there = $hit[$k] < 0 || $way[$k] > 1.0 ? null : self::normal($p, $f, 3 * $hit[$k]);
            if ($there !== null && Vector3::dot($there, array_slice($rays, 6 * $k + 3, 3)) > 0.5 * $reach) {
                $faces[] = intdiv($o, 3);
            }
        }

        return $faces;
    }

    /** Steps by which faces are asked. */
    public static function every(int $faces): int
    {
        return intdiv($faces, self::ASKED) + 1;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return array{float, float, float}|null null where the face has no area
     */
    private static function normal(array $p, array $f, int $o): ?array
    {
        $at = fn (int $v): array => [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]];
        $cross = Vector3::cross(Vector3::minus($at($f[$o + 1]), $at($f[$o])), Vector3::minus($at($f[$o + 2]), $at($f[$o])));
        $length = Vector3::length($cross);

        return $length > 0.0 ? Vector3::scaled($cross, 1.0 / $length) : null;
    }
}
