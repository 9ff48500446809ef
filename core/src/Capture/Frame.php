<?php

declare(strict_types=1);

namespace Emberstone\Core\Capture;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * One look of a live scanner: points in its own coordinates, and where it believes to stand. Over the wire it is a blob of a cloud whose head says
 * more (docs/capture-protocol.md).
 */
final readonly class Frame
{
    /** What one frame may hold; a device that has more sends more frames. */
    public const MOST_POINTS = 2_000_000;

    /**
     * @param  int  $sweep  frames of one sweep become one pass
     * @param  bool  $lost  the scanner does not know where it stands; such a frame has no points
     */
    public function __construct(
        public int $sweep,
        public RigidTransform $pose,
        public PointCloud $cloud,
        public bool $lost = false,
    ) {
    }

    public function encode(): string
    {
        return Blob::encode($this->cloud, ['frame' => ['sweep' => $this->sweep, 'pose' => $this->pose->matrix, 'lost' => $this->lost]]);
    }

    /** @throws UnreadableFile with what is wrong */
    public static function decode(string $bytes): self
    {
        try {
            $head = Blob::head($bytes);
        } catch (UnreadableFile|\JsonException) {
            throw UnreadableFile::at('frame', 'head', 'it is damaged, or of a version this release does not read');
        }
        $frame = $head['frame'] ?? null;
        $pose = $frame['pose'] ?? null;
        if (! is_array($frame) || ! is_int($frame['sweep'] ?? null) || $frame['sweep'] < 0 || ! is_bool($frame['lost'] ?? null) || ! is_array($pose) || count($pose) !== 16) {
            throw UnreadableFile::at('frame', 'head', 'it needs "frame" with a sweep (0 and up), a pose of 16 numbers, and whether the scanner was lost');
        }
        foreach ($pose as $value) {
            if (! is_float($value) && ! is_int($value)) {
                throw UnreadableFile::at('frame', 'pose', 'it holds something that is no number');
            }
        }
        $section = $head['sections']['positions'] ?? null;
        $points = $head['points'] ?? null;
        if (($head['kind'] ?? '') !== 'cloud' || ! is_int($points) || $points < 0 || $points > self::MOST_POINTS || ! is_array($section) || $section['length'] !== 12 * $points || strlen($bytes) < $section['offset'] + $section['length']) {
            throw UnreadableFile::at('frame', 'positions', 'they do not fit the number of points, which may be '.self::MOST_POINTS.' at most');
        }
        try {
            $cloud = Blob::decode($bytes);
        } catch (UnsuitableInput) {
            throw UnreadableFile::at('frame', 'positions', 'a coordinate is not a finite number');
        }
        assert($cloud instanceof PointCloud);
        try {
            $transform = RigidTransform::fromMatrix(array_map(floatval(...), array_values($pose)));
        } catch (InvalidParameter $wrong) {
            throw UnreadableFile::at('frame', 'pose', $wrong->getMessage());
        }

        return new self($frame['sweep'], $transform, $cloud, $frame['lost']);
    }

    /** The points in the coordinates of the capture. */
    public function placed(): PointCloud
    {
        return $this->cloud->transformed($this->pose);
    }
}
