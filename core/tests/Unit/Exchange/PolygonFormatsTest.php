<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** Four-sided cells in files, blobs and on the way through the core. */
final class PolygonFormatsTest extends TestCase
{
    use OwnFolder;

    /** A roof: two quads, and a triangle at one gable, with marks. */
    private static function roof(): TriangleMesh
    {
        $positions = [0.0, 0.0, 0.0, 4.0, 0.0, 0.0, 4.0, 2.0, 1.5, 0.0, 2.0, 1.5, 4.0, 4.0, 0.0, 0.0, 4.0, 0.0];

        return TriangleMesh::fromFlat($positions, [0, 1, 2, 0, 2, 3, 1, 4, 2, 3, 2, 4, 3, 4, 5], [1, 2, 3, 4, 5, 6], [0, 0, 1, 2, 2], [0, 3]);
    }

    private const CELLS = [0 => [0, 1, 2, 3], 2 => [1, 4, 2], 3 => [3, 2, 4, 5]];

    #[Test]
    #[TestWith(['roof.obj', false, "f 1 2 3 4\nf 2 5 3\nf 4 3 5 6\n"])]
    #[TestWith(['roof.off', false, "4 0 1 2 3\n3 1 4 2\n4 3 2 4 5\n"])]
    #[TestWith(['roof.ply', true, "4 0 1 2 3 0\n3 1 4 2 1\n4 3 2 4 5 2\n"])]
    #[TestWith(['roof.ply', false, 'element face 3'])]
    public function files_that_know_polygons_hold_cells_and_give_them_back(string $file, bool $ascii, string $holds): void
    {
        $path = $this->folder."/$file";
        Formats::write($path, self::roof(), new WriteOptions($ascii));
        self::assertStringContainsString($holds, (string) file_get_contents($path));
        $read = Formats::read($path)->geometry;
        self::assertInstanceOf(TriangleMesh::class, $read);
        self::assertCount(2, $read->quads);
        $rounds = fn (iterable $cells): array => array_map(function (array $cell): array {
            while ($cell[0] !== min($cell)) {
                $cell[] = array_shift($cell);
            }

            return $cell;
        }, iterator_to_array($cells));
        self::assertSame($rounds(self::roof()->cells()), $rounds($read->cells()));
        if (str_ends_with($file, 'ply')) {
            self::assertSame(self::roof()->origin, $read->origin);
        }
    }

    #[Test]
    #[TestWith(['stl'])]
    #[TestWith(['3mf'])]
    #[TestWith(['glb'])]
    public function files_that_know_triangles_alone_hold_the_halves(string $format): void
    {
        $path = $this->folder."/roof.$format";
        Formats::write($path, self::roof());
        $read = Formats::read($path)->geometry;
        self::assertInstanceOf(TriangleMesh::class, $read);
        self::assertSame([5, []], [$read->faceCount(), $read->quads]);
    }

    #[Test]
    public function blobs_moves_and_parts_keep_cells(): void
    {
        $roof = self::roof();
        $stored = Blob::decode(Blob::encode($roof));
        self::assertInstanceOf(TriangleMesh::class, $stored);
        foreach ([$roof, $stored, $roof->scaled(25.4), $roof->transformed(RigidTransform::turn([1.0, 0.0, 0.0], 1.0)), $roof->withPositions($roof->positions)] as $mesh) {
            self::assertSame(self::CELLS, iterator_to_array($mesh->cells()));
            self::assertSame(3, $mesh->cellCount());
        }
        $two = TriangleMesh::joined([$roof, $roof]);
        self::assertSame([0, 3, 5, 8], $two->quads);
        self::assertSame([[0], [0, 2], []], [$roof->withFaces([0, 1, 2])->quads, $two->withFaces([0, 1, 8, 9])->quads, $roof->withFaces([1, 2, 3])->quads]);
    }

    #[Test]
    public function a_four_sided_face_of_a_file_that_bends_inwards_is_cut_within(): void
    {
        $path = $this->folder.'/dart.obj';
        file_put_contents($path, "v 0 0 0\nv 4 4 0\nv 0 1 0\nv -4 4 0\nf 1 2 3 4\n");
        $mesh = Formats::read($path)->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);
        self::assertSame([0], $mesh->quads);
        $area = 0.0;
        foreach (array_chunk($mesh->faces, 3) as [$a, $b, $c]) {
            $p = $mesh->positions;
            $half = 0.5 * (($p[3 * $b] - $p[3 * $a]) * ($p[3 * $c + 1] - $p[3 * $a + 1]) - ($p[3 * $b + 1] - $p[3 * $a + 1]) * ($p[3 * $c] - $p[3 * $a]));
            self::assertGreaterThan(0.0, $half, 'neither half is turned over');
            $area += $half;
        }
        self::assertEqualsWithDelta(4.0, $area, 1e-12);
    }
}
