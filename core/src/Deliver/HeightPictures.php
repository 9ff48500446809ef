<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Png;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Artefact;

/**
 * An artefact of kind `height-map`: pictures of heights, as files.
 *
 * It holds columns, rows and the size of a pixel; the directions that point to the right, down, and away from who looks at the front; the place of the upper left corner of the front; and for each side the
 * depths of the nearest and of the farthest surface and a grey value a pixel, 16 bits, little-endian, in base 64. 0 is nothing; DEEPEST is the farthest surface; each value more is one step nearer.
 *
 * @phpstan-type Side array{side: string, near: float, far: float, values: string}
 */
final readonly class HeightPictures
{
    public const KIND = 'height-map';

    public const DEEPEST = 1;

    private const WHITE = 65535;

    /** mm: no finer step says more than a file of single numbers. */
    private const FINEST = 1e-4;

    /** How many mm a grey value is. */
    public static function step(float $near, float $far): float
    {
        return max(self::FINEST, ($far - $near) / (self::WHITE - self::DEEPEST));
    }

    /** @return list<string> the sides that there are: front, back */
    public static function sides(Artefact $artefact): array
    {
        return array_column($artefact->data['sides'], 'side');
    }

    /** The picture of a side; words in it say how large a pixel and a step are, in the unit. */
    public static function png(Artefact $artefact, string $side, Unit $unit): string
    {
        $one = self::side($artefact, $side);
        $mm = $unit->inMillimetres();
        $scale = $artefact->placement->scale;

        return Png::of(Packed::toShorts((string) base64_decode($one['values'], true)), $artefact->data['columns'], [
            'Title' => "$artefact->name, $side", 'Software' => 'Emberstone',
            'Pixel' => sprintf('%.9g %s', $scale * $artefact->data['pixel'] / $mm, $unit->value), 'Step' => sprintf('%.9g %s', $scale * self::step($one['near'], $one['far']) / $mm, $unit->value),
            'Comment' => '0 is nothing; 1 is the farthest surface, each value more is one step nearer',
        ]);
    }

    /** The middles of the pixels on the surface, in project coordinates, mm. */
    public static function points(Artefact $artefact, string $side): PointCloud
    {
        $one = self::side($artefact, $side);
        ['columns' => $columns, 'pixel' => $pixel, 'direction' => $along, 'right' => $right, 'down' => $down, 'origin' => $origin] = $artefact->data;
        $step = self::step($one['near'], $one['far']);
        $points = [];
        foreach (Packed::toShorts((string) base64_decode($one['values'], true)) as $at => $value) {
            if ($value === 0) {
                continue;
            }
            $column = $side === 'back' ? $columns - 1 - $at % $columns : $at % $columns;
            $depth = $one['far'] - ($value - self::DEEPEST) * $step;
            $place = Vector3::plus($origin, Vector3::plus(Vector3::scaled($right, ($column + 0.5) * $pixel), Vector3::scaled($down, (intdiv($at, $columns) + 0.5) * $pixel)));
            array_push($points, ...$artefact->placement->point(Vector3::plus($place, Vector3::scaled($along, $side === 'back' ? -$depth : $depth))));
        }

        return PointCloud::fromFlat($points);
    }

    /**
     * What a report says of each side, in the unit.
     *
     * @return list<array{name: string, side: string, columns: int, rows: int, pixel: float, step: float, depth: float}>
     */
    public static function report(Artefact $artefact, Unit $unit): array
    {
        $scale = $artefact->placement->scale / $unit->inMillimetres();

        return array_map(fn (array $one) => [
            'name' => $artefact->name, 'side' => $one['side'], 'columns' => $artefact->data['columns'], 'rows' => $artefact->data['rows'],
            'pixel' => $scale * $artefact->data['pixel'], 'step' => $scale * self::step($one['near'], $one['far']), 'depth' => $scale * ($one['far'] - $one['near']),
        ], $artefact->data['sides']);
    }

    /** @return Side */
    private static function side(Artefact $artefact, string $side): array
    {
        return array_column($artefact->data['sides'], null, 'side')[$side];
    }
}
