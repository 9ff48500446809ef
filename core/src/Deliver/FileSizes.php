<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Mesh\TriangleMesh;

/** How large the files of a body would be: a piece of it is written in each format, and the rest is taken to be like it. */
final class FileSizes
{
    /** Faces, or points of a cloud, of the piece: enough for headers and compression to count as they do in the whole. */
    private const PIECE = 20_000;

    /** Formats that are handed over. */
    public const OF_MESHES = ['stl', 'obj', 'ply', '3mf', 'glb'];

    public const OF_CLOUDS = ['ply', 'obj', 'e57'];

    /**
     * @param  string  $folder  where the pieces may be written; nothing stays there
     * @return array<string, int> bytes by format, right to some hundredths
     */
    public static function of(TriangleMesh|PointCloud $geometry, string $folder): array
    {
        $elements = $geometry instanceof TriangleMesh ? $geometry->faceCount() : $geometry->count();
        if ($elements === 0) {
            return [];
        }
        $share = max(1.0, $elements / self::PIECE);
        $small = $share === 1.0 ? $geometry : self::piece($geometry);
        $sizes = [];
        foreach ($geometry instanceof TriangleMesh ? self::OF_MESHES : self::OF_CLOUDS as $format) {
            $path = "$folder/size-".bin2hex(random_bytes(8)).".$format";
            try {
                Formats::write($path, $small);
                $sizes[$format] = (int) round($share * (int) filesize($path));
            } finally {
                @unlink($path);
            }
        }

        return $sizes;
    }

    private static function piece(TriangleMesh|PointCloud $geometry): TriangleMesh|PointCloud
    {
        if ($geometry instanceof PointCloud) {
            return $geometry->kept(str_repeat("\1", self::PIECE).str_repeat("\0", $geometry->count() - self::PIECE));
        }

        return $geometry->withFaces(range(0, self::PIECE - 1));
    }
}
