<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Exchange\OpenBlob;

/**
 * Grows an area over a mesh from one face, straight from its blob: reads only the faces it visits.
 *
 * @internal
 */
final class Spread
{
    /** How far off the plane of a flat area a face may lie, in mean edges, whatever the angle; and as many times its tangent besides. */
    private const OFF = 0.5;

    private const OFF_BY_ANGLE = 4.0;

    /**
     * A neighbour joins when its normal turns by less than the angle: from the face it is reached from (round areas), or from
     * the mean of the area so far (flat ones). A flat area ends, too, where a face lies off its plane: a wide bend turns slowly.
     *
     * @return array{faces: list<int>, points: list<float>, normals: list<float>, areas: list<float>} the corners of each face, nine numbers (its centre lies
     *                                                                                               inside a round surface, its corners on it); its unit normal; its area
     */
    public static function from(OpenBlob $blob, int $seed, float $angleRad, bool $flat, int $most): array
    {
        $least = cos($angleRad);
        $seen = [$seed => true];
        $queue = [$seed];
        [$sx, $sy, $sz] = self::face($blob, $seed);
        // The seed's own normal may be noisy: the mean over its neighbours starts the area.
        $mean = [$sx[0], $sx[1], $sx[2]];
        foreach ($blob->ints('adjacency', $seed) as $near) {
            if ($near === 0xFFFFFFFF) {
                continue;
            }
            [$n] = self::face($blob, $near);
            if ($n[0] * $sx[0] + $n[1] * $sx[1] + $n[2] * $sx[2] > 0.7) {
                $mean[0] += $n[0];
                $mean[1] += $n[1];
                $mean[2] += $n[2];
            }
        }
        $l = sqrt($mean[0] ** 2 + $mean[1] ** 2 + $mean[2] ** 2) ?: 1.0;
        [$startX, $startY, $startZ] = [$mean[0] / $l, $mean[1] / $l, $mean[2] / $l];
        [$sumX, $sumY, $sumZ] = [$startX * $sz, $startY * $sz, $startZ * $sz];
        // The normal that each face of the queue was reached with: three lists of numbers take a tenth of the memory of a list of triples.
        $fromX = [$startX];
        $fromY = [$startY];
        $fromZ = [$startZ];
        $list = $points = $normals = $areas = [];
        $centreX = $centreY = $centreZ = $total = 0.0;
        $off = self::OFF + self::OFF_BY_ANGLE * tan($angleRad);
        for ($head = 0; $head < count($queue) && count($list) < $most; $head++) {
            $t = $queue[$head];
            [[$nx, $ny, $nz], $corners, $area] = self::face($blob, $t);
            [$rx, $ry, $rz, $l] = $flat ? [$sumX, $sumY, $sumZ, sqrt($sumX * $sumX + $sumY * $sumY + $sumZ * $sumZ) ?: 1.0] : [$fromX[$head], $fromY[$head], $fromZ[$head], 1.0];
            if ($t !== $seed && $least * $l > $nx * $rx + $ny * $ry + $nz * $rz) {
                unset($seen[$t]);

                continue;
            }
            $x = ($corners[0] + $corners[3] + $corners[6]) / 3.0;
            $y = ($corners[1] + $corners[4] + $corners[7]) / 3.0;
            $z = ($corners[2] + $corners[5] + $corners[8]) / 3.0;
            if ($flat && $total > 0.0) {
                $k = 1.0 / $total;
                $height = (($x - $k * $centreX) * $sumX + ($y - $k * $centreY) * $sumY + ($z - $k * $centreZ) * $sumZ) / $l;
                // The edge of an even triangle of the mean area.
                if ($height * $height > $off * $off * 2.31 * $total / count($list)) {
                    unset($seen[$t]);

                    continue;
                }
            }
            $centreX += $area * $x;
            $centreY += $area * $y;
            $centreZ += $area * $z;
            $total += $area;
            $list[] = $t;
            array_push($points, ...$corners);
            $normals[] = $nx;
            $normals[] = $ny;
            $normals[] = $nz;
            $areas[] = $area;
            $sumX += $area * $nx;
            $sumY += $area * $ny;
            $sumZ += $area * $nz;
            [$fx, $fy, $fz] = $t === $seed ? [$startX, $startY, $startZ] : [$nx, $ny, $nz];
            foreach ($blob->ints('adjacency', $t) as $near) {
                if ($near !== 0xFFFFFFFF && ! isset($seen[$near])) {
                    $seen[$near] = true;
                    $queue[] = $near;
                    $fromX[] = $fx;
                    $fromY[] = $fy;
                    $fromZ[] = $fz;
                }
            }
        }

        return ['faces' => $list, 'points' => $points, 'normals' => $normals, 'areas' => $areas];
    }

    /**
     * @return array{list<float>, list<float>, float} unit normal, nine coordinates of the corners, area
     */
    public static function face(OpenBlob $blob, int $t): array
    {
        $corners = $blob->triangle($t);
        [$ax, $ay, $az, $bx, $by, $bz, $cx, $cy, $cz] = $corners;
        $x = ($by - $ay) * ($cz - $az) - ($bz - $az) * ($cy - $ay);
        $y = ($bz - $az) * ($cx - $ax) - ($bx - $ax) * ($cz - $az);
        $z = ($bx - $ax) * ($cy - $ay) - ($by - $ay) * ($cx - $ax);
        $l = sqrt($x * $x + $y * $y + $z * $z);
        $w = $l > 0.0 ? 1.0 / $l : 0.0;

        return [[$x * $w, $y * $w, $z * $w], $corners, 0.5 * $l];
    }
}
