<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Algorithms\Surface\Sampling;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Places spread evenly over a mesh, for looking at its shape as a whole.
 *
 * @internal
 */
final class SurfaceSamples
{
    private const SAMPLES = 20000;

    /**
     * @return array{points: list<float>, normals: list<float>}
     *
     * @throws UnsuitableInput when the mesh has no area
     */
    public static function of(TriangleMesh $mesh): array
    {
        $samples = Sampling::evenly($mesh->positions, $mesh->faces, self::SAMPLES);

        return count($samples['points']) < 300 ? throw UnsuitableInput::because('The mesh has no surface to speak of; choose another body.') : $samples;
    }

    /**
     * @param  list<float>  $q
     * @return array{float, float, float}
     */
    public static function middle(array $q): array
    {
        return Symmetric3::ofPoints($q)['centre'];
    }

    /**
     * So many of flat triples, evenly chosen.
     *
     * @param  list<float>  $p
     * @return list<float>
     */
    public static function every(array $p, int $wanted): array
    {
        $step = 3 * max(1, intdiv(intdiv(count($p), 3), $wanted));
        $out = [];
        for ($o = 0, $n = count($p); $o < $n; $o += $step) {
            array_push($out, $p[$o], $p[$o + 1], $p[$o + 2]);
        }

        return $out;
    }
}
