<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Rigs\Noise;

/** A sheet of 41 x 41 places 1 mm apart with noise of a known size along its normals: vertex 41 i + j stands at i - 20 along it and j - 20 in Y. */
final class NoisySheet
{
    /**
     * @param  float  $radius  mm, of the cylinder about an axis along Y that it is bent to; its middle is the origin
     * @param  float  $sigma  mm, standard deviation of the noise
     * @param  float  $bowl  mm by which it rises 20 mm from its middle, as the square of the way
     */
    public static function of(float $radius, float $sigma, int $seed, float $bowl = 0.0): TriangleMesh
    {
        $random = new Noise($seed);
        $p = $f = [];
        for ($i = 0; $i <= 40; $i++) {
            for ($j = 0; $j <= 40; $j++) {
                $angle = ($i - 20) / $radius;
                $r = $radius + $sigma * $random->normal() + $bowl * (hypot($i - 20, $j - 20) / 20.0) ** 2;
                array_push($p, $r * sin($angle), $j - 20.0, $r * cos($angle) - $radius);
                if ($i < 40 && $j < 40) {
                    $a = 41 * $i + $j;
                    array_push($f, $a, $a + 41, $a + 42, $a, $a + 42, $a + 1);
                }
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }
}
