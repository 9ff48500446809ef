<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Datums\FitDatum;
use Emberstone\Core\Datums\KindOfShape;
use Emberstone\Core\Datums\Spread;
use Emberstone\Core\Datums\SurfaceSeed;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** What lies around a click on a body as drawings have it: flats of two triangles, walls of long ones. */
final class KindOfShapeTest extends TestCase
{
    /** @return iterable<string, array{array{float, float, float}, string}> */
    public static function clicks(): iterable
    {
        yield 'the outer wall, seen from the front' => [[0.0, -1.0, 0.0], 'cylinder'];
        yield 'an end' => [[0.0, 0.0, 1.0], 'plane'];
    }

    /** @param  array{float, float, float}  $facing */
    #[Test]
    #[DataProvider('clicks')]
    public function a_tube_of_a_drawing_is_a_cylinder_between_planes(array $facing, string $kind): void
    {
        $body = Body::of('Tube', SimpleSolid::tube([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 40.0, 24.0, 30.0));
        $blob = OpenBlob::bytes(Blob::encode($body->geometry));
        for ($face = 0; $face < ($blob->head['faces'] ?? 0); $face++) {
            [$n, $corners] = Spread::face($blob, $face);
            if ($n[0] * $facing[0] + $n[1] * $facing[1] + $n[2] * $facing[2] > 0.999 && hypot($corners[0], $corners[1]) > 19.0) {
                self::assertSame($kind, KindOfShape::around($blob, SurfaceSeed::placement($blob, $body), $face, SurfaceSeed::ANGLE)['kind']);

                return;
            }
        }
        self::fail('no such face');
    }

    #[Test]
    public function two_triangles_in_one_plane_are_enough_for_it_and_two_that_are_not_are_refused(): void
    {
        $body = Body::of('Block', SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [40.0, 30.0, 10.0]));
        $blob = OpenBlob::bytes(Blob::encode($body->geometry));
        $fit = FitDatum::spread($blob, SurfaceSeed::placement($blob, $body), 0, 'plane', 20.0, 'Side')['datum'];
        self::assertSame(0.0, round($fit->rms, 9));
        $this->expectExceptionMessageMatches('/has only \d faces/');
        $ball = Body::of('Ball', MeshBuilder::icosphere(0, 10.0));
        $rough = OpenBlob::bytes(Blob::encode($ball->geometry));
        FitDatum::spread($rough, SurfaceSeed::placement($rough, $ball), 0, 'plane', 45.0, 'Flat');
    }
}
