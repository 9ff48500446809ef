<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Fuse;

use Emberstone\Core\Fuse\VolumeOrPatch;
use Emberstone\Core\Mesh\TriangleMesh;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class VolumeOrPatchTest extends TestCase
{
    /**
     * Square gaps of 10 mm in a row with a measured face at each side, closed by pyramids.
     *
     * @param  list<float|null>  $heights  of the pyramids, mm; null leaves a gap open
     */
    private static function gaps(array $heights, int $mark): TriangleMesh
    {
        $p = $f = $origin = [];
        foreach ($heights as $k => $height) {
            $x = 40.0 * $k;
            $v = intdiv(count($p), 3);
            array_push($p, $x, 0.0, 0.0, $x + 10.0, 0.0, 0.0, $x + 10.0, 10.0, 0.0, $x, 10.0, 0.0, $x + 5.0, -9.0, 0.0, $x + 19.0, 5.0, 0.0, $x + 5.0, 19.0, 0.0, $x - 9.0, 5.0, 0.0);
            for ($side = 0; $side < 4; $side++) {
                array_push($f, $v + ($side + 1) % 4, $v + $side, $v + 4 + $side);
                $origin[] = TriangleMesh::MEASURED;
            }
            if ($height !== null) {
                $top = intdiv(count($p), 3);
                array_push($p, $x + 5.0, 5.0, $height);
                for ($side = 0; $side < 4; $side++) {
                    array_push($f, $v + $side, $v + ($side + 1) % 4, $top);
                    $origin[] = $mark;
                }
            }
        }

        return TriangleMesh::fromFlat($p, $f, [], $origin);
    }

    /**
     * @param  list<float|null>  $volume
     * @param  list<float|null>  $patches
     * @param  list<int>  $kept  gaps that stay closed in the volume
     */
    #[Test]
    #[TestWith([[0.0, 0.0], [0.0, 8.0], [1]])]
    #[TestWith([[8.0, 8.0], [8.0, 0.0], []])]
    #[TestWith([[0.0, 3.0, 5.0], [4.0, 4.0, 4.0], [0, 1]], 'clearly smaller: 100 and 117 of 128 mm2 are, 141 is not')]
    #[TestWith([[9.0, 0.0], [null, 0.0], [0]], 'no patch could be laid over the first')]
    public function every_gap_is_closed_by_what_takes_less_surface(array $volume, array $patches, array $kept): void
    {
        $closed = self::gaps($volume, TriangleMesh::CLOSED);
        $better = VolumeOrPatch::better($closed, self::gaps($patches, TriangleMesh::FILLED));
        sort($better);
        $expected = [];
        foreach ($kept as $gap) {
            // Four measured faces and four that close it, gap after gap.
            array_push($expected, ...range(8 * $gap + 4, 8 * $gap + 7));
        }
        self::assertSame($expected, $better);
    }

    #[Test]
    public function a_patch_over_two_rims_is_weighed_against_all_that_closes_both(): void
    {
        // The second patch hangs together with the first, as over a hole with an island: taken each by itself the first would go to the volume.
        $closed = self::gaps([0.0, 8.0], TriangleMesh::CLOSED);
        $patched = self::gaps([6.0, 0.0], TriangleMesh::FILLED);
        $bridged = TriangleMesh::fromFlat($patched->positions, [...$patched->faces, 1, 9, 10], [], [...$patched->origin, TriangleMesh::FILLED]);
        self::assertCount(4, VolumeOrPatch::better($closed, $patched));
        self::assertSame([], VolumeOrPatch::better($closed, $bridged));
    }
}
