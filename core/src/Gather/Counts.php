<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;

/** How many points and faces came or went between two states. */
final class Counts
{
    /** "1.2 k points", "300 faces", "1.2 k points and 300 faces". */
    public static function inWords(Workpiece $before, Workpiece $after): string
    {
        $points = abs(self::points($after) - self::points($before));
        $faces = abs($after->faceCount() - $before->faceCount());
        $words = [...($points > 0 || $faces === 0 ? [Format::count($points).($points === 1 ? ' point' : ' points')] : []), ...($faces > 0 ? [Format::count($faces).($faces === 1 ? ' face' : ' faces')] : [])];

        return implode(' and ', $words);
    }

    private static function points(Workpiece $workpiece): int
    {
        return $workpiece->pointCount() + array_sum(array_map(fn (Body $body) => $body->geometry instanceof PointCloud ? $body->geometry->count() : 0, $workpiece->bodies));
    }
}
