<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Register\Coarse\Overlaps;

/**
 * Tightens the frames of one sweep on each other, all at once: what a handheld scanner believes of its own pose walks off from look to look.
 *
 * Source    as Icp; frames start where the scanner believed them to be, which is never far off from one to the next.
 */
final readonly class SweepFit
{
    /** Spacings of points: the same place lies no farther apart on two frames. */
    private const REACH = 1.5;

    /** A frame that would move against the one before it by more spacings than this has slid along something with too little shape. */
    private const SLID = 1.5;

    /** Fewer points make no frame that could be laid on another. */
    private const LEAST_POINTS = 200;

    /**
     * @param  list<RigidTransform>  $motions  of each frame
     * @param  float  $farthest  how far they move anything against the middle frame, mm
     * @param  float|null  $residual  how frames lie on each other afterwards, mm; null when they were left where they were believed to be
     * @param  float|null  $before  the same before
     */
    private function __construct(public array $motions, public float $farthest, public ?float $residual, public ?float $before)
    {
    }

    /** @param  list<PointCloud>  $frames  in the coordinates of the capture, in the order they were taken */
    public static function of(array $frames, Progress $progress): self
    {
        $asBelieved = new self(array_fill(0, count($frames), RigidTransform::identity()), 0.0, null, null);
        $some = array_keys(array_filter($frames, fn (PointCloud $frame) => $frame->count() >= self::LEAST_POINTS));
        if (count($some) < 2) {
            return $asBelieved;
        }
        $prepared = Prepare::all(array_map(fn (int $k) => Pass::of("frame $k", $frames[$k]), $some), new PartProgress($progress, 0.0, 0.4));
        $spacing = max(array_map(fn (PreparedPass $frame) => $frame->spacing, $prepared));
        $fit = new Icp($prepared, self::REACH * $spacing, self::REACH * $spacing);
        $pairs = Overlaps::pairs($fit->overlaps(self::REACH * $spacing));
        $middle = intdiv(count($some), 2);
        $alone = array_diff(array_keys($some), array_merge(...$pairs));
        if ($pairs === []) {
            return $asBelieved;
        }
        // Nothing moves while all of them stay: a look at the residuals.
        $before = self::rms($fit->together($pairs, array_keys($some), new PartProgress($progress, 0.4, 0.4), 1)['pairs']);
        $joint = $fit->together($pairs, array_values(array_unique([$middle, ...$alone])), new PartProgress($progress, 0.4, 1.0));
        $farthest = 0.0;
        foreach ($prepared as $i => $frame) {
            $corners = $frame->corners();
            $farthest = max($farthest, PoseDistance::apart(RigidTransform::identity(), $frame->transform, $corners));
            if ($i > 0 && PoseDistance::apart($prepared[$i - 1]->transform, $frame->transform, $corners) > self::SLID * $spacing) {
                return $asBelieved;
            }
        }
        $motions = $asBelieved->motions;
        foreach ($some as $i => $k) {
            $motions[$k] = $prepared[$i]->transform;
        }

        return new self($motions, $farthest, self::rms($joint['pairs']), $before);
    }

    /** @param  list<array{residual: float, overlap: float, ...}>  $pairs */
    private static function rms(array $pairs): float
    {
        return sqrt(array_sum(array_map(fn (array $pair) => $pair['residual'] ** 2, $pairs)) / max(1, count($pairs)));
    }
}
