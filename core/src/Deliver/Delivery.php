<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Datum;

/** Writes a body as the brief wants it: in its unit, with its axis up. */
final class Delivery
{
    /** The project's Z becomes the brief's up axis. */
    public static function transform(Brief $brief): Transform
    {
        $up = match ($brief->up) {
            '+z' => Transform::identity(),
            '-z' => Transform::turn([1.0, 0.0, 0.0], M_PI),
            '+y' => Transform::turn([1.0, 0.0, 0.0], -M_PI / 2),
            '-y' => Transform::turn([1.0, 0.0, 0.0], M_PI / 2),
            '+x' => Transform::turn([0.0, 1.0, 0.0], M_PI / 2),
            default => Transform::turn([0.0, 1.0, 0.0], -M_PI / 2),
        };
        // Quarter turns are exact: rounding leaves no 6e-17 behind.
        $exact = Transform::fromMatrix(array_map(fn (float $v) => round($v), $up->matrix));

        return $exact->then(Transform::scale(1.0 / $brief->unit->inMillimetres()));
    }

    /** @param  Datum|null  $frame  a kept frame to write it in; the one that is set when null */
    public static function write(string $path, TriangleMesh|PointCloud $placed, Brief $brief, ?Datum $frame = null): void
    {
        Formats::write($path, $placed->transformed(($frame?->intoFrame() ?? Transform::identity())->then(self::transform($brief))), new WriteOptions(unit: $brief->unit));
    }
}
