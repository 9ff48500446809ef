<?php

declare(strict_types=1);

namespace Emberstone\Core\Mesh;

/** How surface looks by what it rests on: the colours of the view (resources/js/viewport/palette.ts), sRGB. Files say what each is by its name as well. */
final class EvidenceColours
{
    /** Red, green, blue by mark: warm stone, teal for what was filled, violet for what was reshaped or made. */
    private const OF = [
        TriangleMesh::MEASURED => 0xB9AC99, TriangleMesh::FILLED => 0x3FB8A6, TriangleMesh::STRIP => 0x3FB8A6, TriangleMesh::RESHAPED => 0xA793D6, TriangleMesh::CLOSED => 0x3FB8A6,
        TriangleMesh::SMOOTHED => 0xB9AC99, TriangleMesh::MADE => 0xA793D6,
    ];

    /** @return array{int, int, int} 0 to 255 */
    public static function rgb(int $mark): array
    {
        $colour = self::OF[$mark] ?? self::OF[TriangleMesh::FILLED];

        return [$colour >> 16, $colour >> 8 & 255, $colour & 255];
    }

    /** What a kind of surface is called in files and legends. */
    public static function name(int $mark): string
    {
        return TriangleMesh::MADE_UP[$mark] ?? 'measured';
    }

    /** @return list<int> the marks of a mesh that is not measured all over, in order; empty of one that is */
    public static function marks(TriangleMesh $mesh): array
    {
        $marks = array_values(array_unique($mesh->origin));
        sort($marks);

        return $marks === [TriangleMesh::MEASURED] ? [] : $marks;
    }
}
