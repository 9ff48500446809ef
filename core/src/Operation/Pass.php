<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Cloud\CloudSource;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * One raw capture with what was decided about it since: what its numbers mean, where it stands and which points are kept. The points never change.
 *
 * `source` holds the numbers of the file; `scale` says how many millimetres one of them is. Whoever computes takes keptCloud() or allCloud(), in the pass' own coordinates, or placed(), in the project's: all in mm.
 */
final readonly class Pass
{
    public CloudSource $source;

    /**
     * @param  string|null  $mask  a byte a point, zero for points cut away; null when all are kept
     * @param  PoseError|null  $poseError  null where it was not registered, or moved by itself since
     */
    public function __construct(
        public string $id,
        public string $name,
        PointCloud|CloudSource $points,
        public RigidTransform $transform,
        public ?string $mask = null,
        public ?float $residual = null,
        public ?float $overlap = null,
        public float $scale = 1.0,
        public ?PoseError $poseError = null,
    ) {
        $this->source = $points instanceof PointCloud ? CloudSource::of($points) : $points;
    }

    /** The points as their file has them, those cut away too. They may have been read from disk for this call: keep them no longer than they are needed. */
    public function cloud(): PointCloud
    {
        return $this->source->cloud();
    }

    /** Points, those cut away too. */
    public function count(): int
    {
        return $this->source->count;
    }

    public static function of(string $name, PointCloud $cloud): self
    {
        return new self($name, $name, $cloud, RigidTransform::identity());
    }

    /** Under another name, which is its id as well. */
    public function named(string $name): self
    {
        return new self($name, $name, $this->source, $this->transform, $this->mask, $this->residual, $this->overlap, $this->scale, $this->poseError);
    }

    public function keptCount(): int
    {
        return $this->mask === null ? $this->source->count : strlen($this->mask) - substr_count($this->mask, "\0");
    }

    /** The kept points in project coordinates. */
    public function placed(): PointCloud
    {
        return $this->keptCloud()->transformed($this->transform);
    }

    /**
     * Some of the kept points, evenly chosen by their order, in project coordinates.
     *
     * @param  int  $every  of how many points one is taken; 1 takes all
     * @return list<float> flat xyz, mm
     */
    public function sample(int $every): array
    {
        $p = $this->cloud()->positions;
        $some = [];
        $kept = 0;
        // Where all are kept, those between need not be looked at.
        for ($i = 0, $n = $this->source->count, $step = $this->mask === null ? $every : 1; $i < $n; $i += $step) {
            if ($this->mask === null || ($this->mask[$i] !== "\0" && $kept++ % $every === 0)) {
                $some[] = $p[3 * $i] * $this->scale;
                $some[] = $p[3 * $i + 1] * $this->scale;
                $some[] = $p[3 * $i + 2] * $this->scale;
            }
        }

        return $this->transform->points($some);
    }

    /** The kept points in the coordinates of the capture, mm. */
    public function keptCloud(): PointCloud
    {
        return ($this->mask === null ? $this->cloud() : $this->cloud()->kept($this->mask))->scaled($this->scale);
    }

    /** All points in the coordinates of the capture, mm, those cut away too. */
    public function allCloud(): PointCloud
    {
        return $this->cloud()->scaled($this->scale);
    }

    /** The kept points in project coordinates, in another unit; to the last bit as their file had them where they have not moved and the unit is that of the file. */
    public function in(Unit $unit): PointCloud
    {
        $mm = $unit->inMillimetres();
        if (! $this->transform->isIdentity()) {
            return $this->placed()->scaled(1.0 / $mm);
        }

        return ($this->mask === null ? $this->cloud() : $this->cloud()->kept($this->mask))->scaled($this->scale / $mm);
    }

    public function placement(): Placement
    {
        return Placement::of($this->scale, $this->transform);
    }

    /** Larger or smaller about the origin of the project: what its numbers mean changes, and how far it stands from there. */
    public function scaled(float $factor): self
    {
        return new self($this->id, $this->name, $this->source, $this->transform->withShiftTimes($factor), $this->mask, $this->residual === null ? null : $this->residual * $factor, $this->overlap, $this->scale * $factor, $this->poseError?->scaled($factor));
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

        return new self($this->id, $this->name, $this->source, $this->transform, $mask, $this->residual, $this->overlap, $this->scale, $this->poseError);
    }

    public function moved(RigidTransform $transform, ?float $residual = null, ?float $overlap = null, ?PoseError $poseError = null): self
    {
        return new self($this->id, $this->name, $this->source, $transform, $this->mask, $residual, $overlap, $this->scale, $poseError);
    }

    /** Moved with all other passes: how it lies among them stays. */
    public function movedAlong(RigidTransform $by): self
    {
        return $this->moved($this->transform->then($by), $this->residual, $this->overlap, $this->poseError);
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
