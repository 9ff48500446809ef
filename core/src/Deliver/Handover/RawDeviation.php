<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Handover;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\PseudoNormals;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;

/**
 * A picture of how far the raw points of the passes lie off a body: blue inside, pale on it, brown outside, as the window colours a comparison.
 *
 * Cost      4 us a point, and the picture.
 */
final class RawDeviation
{
    /** Points that are looked up at most: some for each face of a body that is drawn. */
    private const POINTS = 200_000;

    /** The diverging scale of the view (resources/js/viewport/palette.ts), from inside to outside. */
    public const SCALE = [0x274A8F, 0x86A3D0, 0xF3ECD8, 0xC0894F, 0x6E3A1C];

    /** Of faces that no point came near. */
    private const NOTHING = 0x8D8781;

    /**
     * @param  list<Pass>  $passes
     * @param  float  $reach  mm at which both ends of the scale stand: the tolerance asked for
     * @param  array{float, float, float}  $along
     * @param  array{float, float, float}  $up
     * @return array{title: string, png: string}|null PNG in base64; null where there are no points
     */
    public static function picture(TriangleMesh $mesh, array $passes, float $reach, array $along, array $up, int $columns, int $rows): ?array
    {
        $every = max(1, intdiv(array_sum(array_map(fn (Pass $pass) => $pass->keptCount(), $passes)), self::POINTS));
        $points = array_merge(...array_map(fn (Pass $pass) => $pass->sample($every), $passes), ...[[]]);
        if ($points === []) {
            return null;
        }
        $title = sprintf('Raw points off the part: blue %1$s inside, pale none, brown %1$s outside, grey where there are none', Format::mm($reach));

        return ['title' => $title, 'png' => base64_encode(PartPicture::of($mesh, $along, $up, $columns, $rows, self::tints($mesh, $points, $reach)))];
    }

    /**
     * @param  non-empty-list<float>  $points
     * @return list<int> a colour a face
     */
    private static function tints(TriangleMesh $mesh, array $points, float $reach): array
    {
        $face = $distanceSq = [];
        TriangleBvh::of($mesh->positions, $mesh->faces)->closest($points, $face, $distanceSq);
        $sum = $many = array_fill(0, $mesh->vertexCount(), 0.0);
        foreach (PseudoNormals::sides($mesh->positions, $mesh->faces, $points, array_values($face)) as $i => $side) {
            for ($c = 0; $c < 3; $c++) {
                $v = $mesh->faces[3 * $face[$i] + $c];
                $sum[$v] += $side * sqrt($distanceSq[$i]);
                $many[$v]++;
            }
        }
        $tints = [];
        for ($o = 0, $n = count($mesh->faces); $o < $n; $o += 3) {
            [$a, $b, $c] = [$mesh->faces[$o], $mesh->faces[$o + 1], $mesh->faces[$o + 2]];
            $all = $many[$a] + $many[$b] + $many[$c];
            $tints[] = $all > 0.0 ? self::tint(($sum[$a] + $sum[$b] + $sum[$c]) / $all / $reach) : self::NOTHING;
        }

        return $tints;
    }

    /** @param  float  $share  -1 at the inner end, 1 at the outer one */
    private static function tint(float $share): int
    {
        $at = max(0.0, min(1.0, 0.5 + 0.5 * $share)) * (count(self::SCALE) - 1);
        $k = min(count(self::SCALE) - 2, (int) $at);
        $colour = 0;
        foreach ([16, 8, 0] as $shift) {
            [$a, $b] = [self::SCALE[$k] >> $shift & 255, self::SCALE[$k + 1] >> $shift & 255];
            $colour |= (int) round($a + ($b - $a) * ($at - $k)) << $shift;
        }

        return $colour;
    }
}
