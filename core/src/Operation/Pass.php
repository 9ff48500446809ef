<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\Transform;

/**
 * One raw capture with what was decided about it since: where it stands and which points are kept. The points never change.
 */
final readonly class Pass
{
    /** @param  string|null  $mask a byte a point, zero for points cut away; null when all are kept */
    public function __construct(
        public string $id,
        public string $name,
        public PointCloud $cloud,
        public Transform $transform,
        public ?string $mask = null,
        public ?float $residual = null,
        public ?float $overlap = null,
    ) {
    }

    public static function of(string $name, PointCloud $cloud): self
    {
        return new self($name, $name, $cloud, Transform::identity());
    }

    public function keptCount(): int
    {
        return $this->mask === null ? $this->cloud->count() : strlen($this->mask) - substr_count($this->mask, "\0");
    }

    /** The kept points in project coordinates. */
    public function placed(): PointCloud
    {
        return $this->keptCloud()->transformed($this->transform);
    }

    /** The kept points in the coordinates of the capture. */
    public function keptCloud(): PointCloud
    {
        return $this->mask === null ? $this->cloud : $this->cloud->kept($this->mask);
    }

    /** The same pass with fewer points kept: $mask speaks of the points kept so far. */
    public function narrowed(string $mask): self
    {
        if ($this->mask !== null) {
            $whole = $this->mask;
            for ($i = 0, $k = 0, $n = strlen($whole); $i < $n; $i++) {
                if ($whole[$i] !== "\0" && $mask[$k++] === "\0") {
                    $whole[$i] = "\0";
                }
            }
            $mask = $whole;
        }

        return new self($this->id, $this->name, $this->cloud, $this->transform, $mask, $this->residual, $this->overlap);
    }

    public function moved(Transform $transform, ?float $residual = null, ?float $overlap = null): self
    {
        return new self($this->id, $this->name, $this->cloud, $transform, $this->mask, $residual, $overlap);
    }

    /** A byte for each kept point, put to its place among all points; zero for the others. */
    public function spread(string $kept): string
    {
        if ($this->mask === null) {
            return $kept;
        }
        $bytes = str_repeat("\0", strlen($this->mask));
        for ($i = 0, $next = 0, $n = strlen($bytes); $i < $n; $i++) {
            if ($this->mask[$i] !== "\0") {
                $bytes[$i] = $kept[$next++];
            }
        }

        return $bytes;
    }
}
