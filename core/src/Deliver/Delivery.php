<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\Look;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Datum;

/** Writes a body as the brief wants it: in its unit, with its axis up. */
final class Delivery
{
    /** The project's Z becomes the brief's up axis; lengths stay in mm. */
    public static function transform(Brief $brief): RigidTransform
    {
        $up = match ($brief->up) {
            '+z' => RigidTransform::identity(),
            '-z' => RigidTransform::turn([1.0, 0.0, 0.0], M_PI),
            '+y' => RigidTransform::turn([1.0, 0.0, 0.0], -M_PI / 2),
            '-y' => RigidTransform::turn([1.0, 0.0, 0.0], M_PI / 2),
            '+x' => RigidTransform::turn([0.0, 1.0, 0.0], M_PI / 2),
            default => RigidTransform::turn([0.0, 1.0, 0.0], -M_PI / 2),
        };

        // Quarter turns are exact: rounding leaves no 6e-17 behind.
        return RigidTransform::fromMatrix(array_map(fn (float $v) => round($v), $up->matrix));
    }

    /** @param  Datum|null  $frame  a kept frame to write it in; the one that is set when null */
    public static function write(string $path, TriangleMesh|PointCloud $placed, Brief $brief, ?Datum $frame = null, ?Look $look = null): void
    {
        Formats::write($path, $placed->transformed(($frame?->intoFrame() ?? RigidTransform::identity())->then(self::transform($brief)))->scaled(1.0 / $brief->unit->inMillimetres()), new WriteOptions(unit: $brief->unit, look: $look));
    }
}
