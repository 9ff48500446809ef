<?php

declare(strict_types=1);

namespace Emberstone\Core\Cloud;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Finite;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * Points as captured, flat and packed. Never changed; every method gives a new cloud.
 */
final readonly class PointCloud
{
    /**
     * @param  list<float>  $positions  flat xyz
     * @param  list<float>  $normals  flat unit vectors, or empty
     * @param  list<int>  $colours  0xRRGGBB a point, or empty
     * @param  array{float, float, float}|null  $sensorOrigin  where the scanner stood, in the coordinates of the points
     * @param  list<float>  $confidence  how sure the scanner was of each point, on its own scale, more is surer; or empty
     * @param  Raster|null  $raster  the grid of rays of a structured capture
     */
    private function __construct(
        public array $positions,
        public array $normals,
        public array $colours,
        public ?array $sensorOrigin,
        public array $confidence,
        public ?Raster $raster,
    ) {
    }

    /**
     * @param  array<int, float>  $positions
     * @param  array<int, float>  $normals
     * @param  array<int, int>  $colours
     * @param  array{float, float, float}|null  $sensorOrigin
     * @param  array<int, float>  $confidence
     *
     * @throws UnsuitableInput when a coordinate or normal is not finite: nothing downstream could bear it
     */
    public static function fromFlat(array $positions, array $normals = [], array $colours = [], ?array $sensorOrigin = null, array $confidence = [], ?Raster $raster = null): self
    {
        assert(array_is_list($positions) && array_is_list($normals) && array_is_list($colours) && array_is_list($confidence));
        assert(count($positions) % 3 === 0);
        assert($normals === [] || count($normals) === count($positions));
        assert($colours === [] || 3 * count($colours) === count($positions));

        assert($confidence === [] || 3 * count($confidence) === count($positions));
        assert($raster === null || 3 * count($raster->cells) === count($positions));

        Finite::coordinates($positions, 'point');
        Finite::coordinates($normals, 'normal');

        return new self($positions, $normals, $colours, $sensorOrigin, $confidence, $raster);
    }

    /**
     * One cloud of several, in the same coordinates. It has no sensor and no raster of its own; normals, colours and confidence stay where all of them have them.
     *
     * @param  list<self>  $clouds
     */
    public static function joined(array $clouds): self
    {
        $positions = $normals = $colours = $confidence = [];
        $sure = array_filter($clouds, fn (self $cloud) => $cloud->confidence === []) === [];
        $facing = array_filter($clouds, fn (self $cloud) => $cloud->normals === []) === [];
        $coloured = array_filter($clouds, fn (self $cloud) => $cloud->colours === []) === [];
        foreach ($clouds as $cloud) {
            foreach ($cloud->positions as $value) {
                $positions[] = $value;
            }
            foreach ($facing ? $cloud->normals : [] as $value) {
                $normals[] = $value;
            }
            foreach ($coloured ? $cloud->colours : [] as $value) {
                $colours[] = $value;
            }
            foreach ($sure ? $cloud->confidence : [] as $value) {
                $confidence[] = $value;
            }
        }

        return self::fromFlat($positions, $normals, $colours, null, $confidence);
    }

    /**
     * Everything as bytes, to the last bit: doubles and whole numbers of eight bytes.
     *
     * @return array{positions: string, normals: string, colours: string, confidence: string, sensor: array{float, float, float}|null, raster: array{int, int, string}|null}
     */
    public function packed(): array
    {
        $raster = $this->raster;

        return [
            'positions' => Packed::doubles($this->positions), 'normals' => Packed::doubles($this->normals), 'colours' => Packed::longs($this->colours), 'confidence' => Packed::doubles($this->confidence),
            'sensor' => $this->sensorOrigin, 'raster' => $raster === null ? null : [$raster->columns, $raster->rows, Packed::longs($raster->cells)],
        ];
    }

    /** @param  array{positions: string, normals: string, colours: string, confidence: string, sensor: array{float, float, float}|null, raster: array{int, int, string}|null}  $packed  as packed() gave it */
    public static function unpacked(array $packed): self
    {
        $raster = $packed['raster'];

        return new self(
            Packed::toDoubles($packed['positions']), Packed::toDoubles($packed['normals']), Packed::toLongs($packed['colours']), $packed['sensor'], Packed::toDoubles($packed['confidence']),
            $raster === null ? null : Raster::of($raster[0], $raster[1], Packed::toLongs($raster[2])),
        );
    }

    public function count(): int
    {
        return intdiv(count($this->positions), 3);
    }

    /** Larger or smaller about the origin of its coordinates. */
    public function scaled(float $factor): self
    {
        if ($factor === 1.0) {
            return $this;
        }
        $sensor = $this->sensorOrigin;

        return new self(
            array_map(fn (float $v) => $factor * $v, $this->positions), $this->normals, $this->colours,
            $sensor === null ? null : [$factor * $sensor[0], $factor * $sensor[1], $factor * $sensor[2]], $this->confidence, $this->raster,
        );
    }

    /** Moved as a rigid whole: points, normals and where the scanner stood. */
    public function transformed(RigidTransform $transform): self
    {
        if ($transform->isIdentity()) {
            return $this;
        }

        return new self(
            $transform->points($this->positions),
            $this->normals === [] ? [] : $transform->directions($this->normals),
            $this->colours,
            $this->sensorOrigin === null ? null : $transform->point($this->sensorOrigin),
            $this->confidence,
            $this->raster,
        );
    }

    /** The points whose byte in $mask is not zero. */
    public function kept(string $mask): self
    {
        assert(strlen($mask) === $this->count());
        $p = $this->positions;
        $n = $this->normals;
        $c = $this->colours;
        $sure = $this->confidence;
        $positions = $normals = $colours = $confidence = [];
        for ($i = 0, $o = 0, $count = strlen($mask); $i < $count; $i++, $o += 3) {
            if ($mask[$i] === "\0") {
                continue;
            }
            $positions[] = $p[$o];
            $positions[] = $p[$o + 1];
            $positions[] = $p[$o + 2];
            if ($n !== []) {
                $normals[] = $n[$o];
                $normals[] = $n[$o + 1];
                $normals[] = $n[$o + 2];
            }
            if ($c !== []) {
                $colours[] = $c[$i];
            }
            if ($sure !== []) {
                $confidence[] = $sure[$i];
            }
        }

        return new self($positions, $normals, $colours, $this->sensorOrigin, $confidence, $this->raster?->kept($mask));
    }

    /** @param  array<int, float>  $normals flat unit vectors, one a point */
    public function withNormals(array $normals): self
    {
        return self::fromFlat($this->positions, $normals, $this->colours, $this->sensorOrigin, $this->confidence, $this->raster);
    }
}
