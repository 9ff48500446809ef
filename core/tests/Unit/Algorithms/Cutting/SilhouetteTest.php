<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Cutting;

use Emberstone\Core\Algorithms\Cutting\Silhouette;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class SilhouetteTest extends TestCase
{
    /**
     * @param  list<float>  $seen
     * @param  array<int, int>  $faces
     * @return list<list<array{float, float}>>
     */
    private static function outline(array $seen, array $faces): array
    {
        return Silhouette::of($seen, $faces, [], fn (float $done) => self::assertLessThanOrEqual(1.0, $done));
    }

    /** @param  list<array{float, float}>  $loop */
    private static function area(array $loop): float
    {
        $sum = 0.0;
        foreach ($loop as $k => [$x, $y]) {
            [$u, $v] = $loop[($k + 1) % count($loop)];
            $sum += $x * $v - $y * $u;
        }

        return 0.5 * $sum;
    }

    #[Test]
    public function a_brick_is_seen_by_its_corners_alone(): void
    {
        $brick = MeshBuilder::brick([3.0, 2.0, 1.0], 6)->transformed(RigidTransform::turn([0.0, 0.0, 1.0], 0.3));
        [$loop] = self::outline($brick->positions, $brick->faces);
        self::assertCount(4, $loop);
        self::assertEqualsWithDelta(6.0, self::area($loop), 1e-12, 'corners are given back as they were');
        // Seen askew it is a hexagon: the three faces that are seen, each by how much it faces the eye.
        $askew = $brick->transformed(RigidTransform::turn([1.0, 0.4, 0.2], 0.7));
        $eye = RigidTransform::turn([1.0, 0.4, 0.2], 0.7)->inverse()->direction([0.0, 0.0, 1.0]);
        $eye = RigidTransform::turn([0.0, 0.0, 1.0], -0.3)->direction($eye);
        [$loop] = self::outline($askew->positions, $askew->faces);
        self::assertCount(6, $loop);
        self::assertEqualsWithDelta(2.0 * abs($eye[0]) + 3.0 * abs($eye[1]) + 6.0 * abs($eye[2]), self::area($loop), 1e-7);
    }

    #[Test]
    public function light_falls_through_a_ring_seen_along_its_axis_and_not_from_its_side(): void
    {
        $ring = MeshBuilder::ring(14.0, 5.0, 24, 12);
        $loops = self::outline($ring->positions, $ring->faces);
        self::assertCount(2, $loops);
        self::assertGreaterThan(0.0, self::area($loops[0]));
        self::assertLessThan(0.0, self::area($loops[1]), 'an opening runs with the clock');
        $turned = $ring->transformed(RigidTransform::turn([1.0, 0.0, 0.0], M_PI / 2.0));
        self::assertCount(1, self::outline($turned->positions, $turned->faces));
    }

    #[Test]
    public function nothing_is_outlined_of_faces_that_are_seen_from_their_edge(): void
    {
        self::assertSame([], self::outline([0.0, 0.0, 0.0, 1.0, 1.0, 0.0, 2.0, 2.0, 5.0], [0, 1, 2]));
        self::assertSame([], self::outline([0.0, 0.0, 0.0], []));
    }

    /** Faces thrown anywhere, on a coarse lattice too, so that edges and corners lie on each other: points are covered where the outline winds around them. */
    #[Test]
    public function a_place_is_within_the_outline_where_a_face_covers_it(): void
    {
        mt_srand(20261130);
        for ($round = 0; $round < 30; $round++) {
            $seen = $faces = [];
            for ($k = 0; $k < 300; $k++) {
                $seen[] = $round % 2 === 0 ? mt_rand(0, 12) : 12.0 * mt_rand() / mt_getrandmax();
            }
            $seen = array_map(fn (float|int $x) => (float) $x, $seen);
            for ($k = 0; $k < 25 + $round; $k++) {
                array_push($faces, mt_rand(0, 99), mt_rand(0, 99), mt_rand(0, 99));
            }
            $loops = self::outline($seen, $faces);
            for ($k = 0; $k < 300; $k++) {
                [$x, $y] = [12.0 * mt_rand() / mt_getrandmax(), 12.0 * mt_rand() / mt_getrandmax()];
                self::assertSame(self::isCovered($seen, $faces, $x, $y) ? 1 : 0, self::winding($loops, $x, $y), "round $round at $x, $y");
            }
        }
    }

    /**
     * @param  list<float>  $seen
     * @param  list<int>  $faces
     */
    private static function isCovered(array $seen, array $faces, float $x, float $y): bool
    {
        foreach (array_chunk($faces, 3) as $corners) {
            $sides = [];
            foreach ($corners as $c => $a) {
                $b = $corners[($c + 1) % 3];
                $sides[] = ($seen[3 * $b] - $seen[3 * $a]) * ($y - $seen[3 * $a + 1]) - ($seen[3 * $b + 1] - $seen[3 * $a + 1]) * ($x - $seen[3 * $a]) <=> 0.0;
            }
            if ($sides === [1, 1, 1] || $sides === [-1, -1, -1]) {
                return true;
            }
        }

        return false;
    }

    /** @param  list<list<array{float, float}>>  $loops */
    private static function winding(array $loops, float $x, float $y): int
    {
        $winding = 0;
        foreach ($loops as $loop) {
            foreach ($loop as $k => [$a, $b]) {
                [$c, $d] = $loop[($k + 1) % count($loop)];
                if (($b > $y) !== ($d > $y) && $a + ($y - $b) / ($d - $b) * ($c - $a) > $x) {
                    $winding += $d > $b ? 1 : -1;
                }
            }
        }

        return $winding;
    }
}
