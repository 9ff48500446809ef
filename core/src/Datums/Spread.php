<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

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
        [$own, , $size] = self::face($blob, $seed);
        [$startX, $startY, $startZ] = self::startNormal($blob, $seed, $own);
        [$sumX, $sumY, $sumZ] = [$startX * $size, $startY * $size, $startZ * $size];
        // The normal that each face of the queue was reached with: three lists of numbers take a tenth of the memory of a list of triples.
        $fromX = [$startX];
        $fromY = [$startY];
        $fromZ = [$startZ];
        $list = $points = $normals = $areas = [];
        $centreX = $centreY = $centreZ = $total = 0.0;
        $off = self::OFF + self::OFF_BY_ANGLE * tan($angleRad);
        for ($head = 0; $head < count($queue) && count($list) < $most; $head++) {
            $t = $queue[$head];
            // As face() does, without the lists it packs its answer in.
            [$ax, $ay, $az, $bx, $by, $bz, $cx, $cy, $cz] = $corners = $blob->triangle($t);
            $nx = ($by - $ay) * ($cz - $az) - ($bz - $az) * ($cy - $ay);
            $ny = ($bz - $az) * ($cx - $ax) - ($bx - $ax) * ($cz - $az);
            $nz = ($bx - $ax) * ($cy - $ay) - ($by - $ay) * ($cx - $ax);
            $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
            $area = 0.5 * $l;
            $w = $l > 0.0 ? 1.0 / $l : 0.0;
            $nx *= $w;
            $ny *= $w;
            $nz *= $w;
            if ($flat) {
                $l = sqrt($sumX * $sumX + $sumY * $sumY + $sumZ * $sumZ) ?: 1.0;
                $along = ($nx * $sumX + $ny * $sumY + $nz * $sumZ) / $l;
            } else {
                $along = $nx * $fromX[$head] + $ny * $fromY[$head] + $nz * $fromZ[$head];
            }
            if ($least > $along && $t !== $seed) {
                unset($seen[$t]);

                continue;
            }
            if ($flat) {
                $x = ($ax + $bx + $cx) / 3.0;
                $y = ($ay + $by + $cy) / 3.0;
                $z = ($az + $bz + $cz) / 3.0;
                $k = $total > 0.0 ? 1.0 / $total : 0.0;
                $height = (($x - $k * $centreX) * $sumX + ($y - $k * $centreY) * $sumY + ($z - $k * $centreZ) * $sumZ) / $l;
                // The edge of an even triangle of the mean area.
                if ($total > 0.0 && $height * $height > $off * $off * 2.31 * $total / count($list)) {
                    unset($seen[$t]);

                    continue;
                }
                $centreX += $area * $x;
                $centreY += $area * $y;
                $centreZ += $area * $z;
                $total += $area;
                $sumX += $area * $nx;
                $sumY += $area * $ny;
                $sumZ += $area * $nz;
            }
            $list[] = $t;
            array_push($points, ...$corners);
            $normals[] = $nx;
            $normals[] = $ny;
            $normals[] = $nz;
            $areas[] = $area;
            if ($t === $seed) {
                [$nx, $ny, $nz] = [$startX, $startY, $startZ];
            }
            foreach ($blob->ints('adjacency', $t) as $near) {
                if ($near !== 0xFFFFFFFF && ! isset($seen[$near])) {
                    $seen[$near] = true;
                    $queue[] = $near;
                    $fromX[] = $nx;
                    $fromY[] = $ny;
                    $fromZ[] = $nz;
                }
            }
        }

        return ['faces' => $list, 'points' => $points, 'normals' => $normals, 'areas' => $areas];
    }

    /**
     * The mean normal of a face and its neighbours: the seed's own may be noisy.
     *
     * @param  list<float>  $own
     * @return array{float, float, float}
     */
    private static function startNormal(OpenBlob $blob, int $seed, array $own): array
    {
        $mean = $own;
        foreach ($blob->ints('adjacency', $seed) as $near) {
            if ($near === 0xFFFFFFFF) {
                continue;
            }
            [$n] = self::face($blob, $near);
            if ($n[0] * $own[0] + $n[1] * $own[1] + $n[2] * $own[2] > 0.7) {
                $mean[0] += $n[0];
                $mean[1] += $n[1];
                $mean[2] += $n[2];
            }
        }
        $l = sqrt($mean[0] ** 2 + $mean[1] ** 2 + $mean[2] ** 2) ?: 1.0;

        return [$mean[0] / $l, $mean[1] / $l, $mean[2] / $l];
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
