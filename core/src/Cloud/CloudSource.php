<?php

declare(strict_types=1);

namespace Emberstone\Core\Cloud;

use Closure;
use Emberstone\Core\Algorithms\Parallel\Memory;
use Emberstone\Core\Foundation\Scratch;
use WeakReference;

/**
 * The points of a pass, in memory or on disk. What is on disk is read when somebody asks, and let go when nobody holds it any more: a project of a hundred million points then takes
 * the memory of the few passes that are worked on, not of all.
 */
final class CloudSource
{
    /** Share of the budget of memory that clouds read last may take, and MB that they may take at most: what waits to be asked for again is no work. */
    private const HELD_SHARE = 0.1;

    private const HELD_MB = 600.0;

    /** A point's coordinates, and its normal where it has one, in bytes. */
    private const BYTES = 48;

    /** @var array<int, PointCloud> clouds read last, by the number of their source, the latest at the end */
    private static array $held = [];

    /** @var WeakReference<PointCloud>|null what was read last, for as long as somebody holds it */
    private ?WeakReference $read = null;

    /**
     * @param  PointCloud|Closure(): PointCloud  $from
     * @param  int  $count  points
     * @param  bool  $hasSensor  whether it is known where the scanner stood
     * @param  bool  $hasConfidence  whether the points say how sure the scanner was of them
     */
    private function __construct(private readonly PointCloud|Closure $from, public readonly int $count, public readonly bool $hasSensor, public readonly bool $hasConfidence)
    {
    }

    /** A cloud that stays in memory. */
    public static function of(PointCloud $cloud): self
    {
        return new self($cloud, $cloud->count(), $cloud->sensorOrigin !== null, $cloud->confidence !== []);
    }

    /**
     * A cloud that is read when it is asked for.
     *
     * @param  Closure(): PointCloud  $read  gives the same cloud every time
     * @param  int  $count  points
     */
    public static function readFrom(Closure $read, int $count, bool $hasSensor, bool $hasConfidence): self
    {
        return new self($read, $count, $hasSensor, $hasConfidence);
    }

    /** The same points put on disk, to the last bit. Normals, colours, confidence and raster go with them. */
    public static function onDisk(PointCloud $cloud): self
    {
        $scratch = new Scratch;
        self::put($scratch, 'cloud', $cloud);

        return self::inScratch($scratch, 'cloud', $cloud->count(), $cloud->sensorOrigin !== null, $cloud->confidence !== []);
    }

    /** Puts a cloud where inScratch() finds it, in another process if need be. */
    public static function put(Scratch $scratch, string $name, PointCloud $cloud): void
    {
        $scratch->put($name, serialize($cloud->packed()));
    }

    /** A cloud that was put() there; the numbers are what it has. */
    public static function inScratch(Scratch $scratch, string $name, int $count, bool $hasSensor, bool $hasConfidence): self
    {
        return new self(fn (): PointCloud => PointCloud::unpacked(unserialize($scratch->get($name), ['allowed_classes' => false])), $count, $hasSensor, $hasConfidence);
    }

    /** The points; keep them no longer than they are needed. */
    public function cloud(): PointCloud
    {
        if ($this->from instanceof PointCloud) {
            return $this->from;
        }
        $cloud = $this->read?->get() ?? ($this->from)();
        $this->read = WeakReference::create($cloud);
        self::hold(spl_object_id($this), $cloud);

        return $cloud;
    }

    /** Small clouds are asked for again and again: those read last stay. */
    private static function hold(int $source, PointCloud $cloud): void
    {
        unset(self::$held[$source]);
        self::$held[$source] = $cloud;
        $room = 1e6 * min(self::HELD_MB, self::HELD_SHARE * Memory::budgetMb());
        foreach (array_reverse(self::$held, true) as $number => $one) {
            $room -= self::BYTES * $one->count();
            if ($room < 0.0) {
                unset(self::$held[$number]);
            }
        }
    }

    /** Nothing of a source that is gone is held. */
    public function __destruct()
    {
        unset(self::$held[spl_object_id($this)]);
    }

    /**
     * The points changed by a rule, when they are asked for.
     *
     * @param  Closure(PointCloud): PointCloud  $rule  neither adds nor drops points
     */
    public function changed(Closure $rule): self
    {
        if ($this->from instanceof PointCloud) {
            return self::of($rule($this->from));
        }

        return new self(fn (): PointCloud => $rule($this->cloud()), $this->count, $this->hasSensor, $this->hasConfidence);
    }
}
