<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Operation\Datum;

/** One datum of a frame and what becomes of it: an axis (`X`), a plane (`XY`), or the `origin`. */
final readonly class FrameChoice
{
    /** Planes of the frame, by the number of the axis square to them. */
    private const PLANES = [0 => 'YZ', 1 => 'XZ', 2 => 'XY'];

    /** @param  float  $sign  -1 when the datum's direction shall point the other way */
    private function __construct(public Datum $datum, public ?string $to, public float $sign)
    {
    }

    /**
     * @param  string|null  $to  null: whatever is still open
     * @param  bool  $flip  the other way round. As it is, the part lies on the positive side of a plane whose outside faces down, and a line points along its axis
     */
    public static function of(Datum $datum, ?string $to, bool $flip = false): self
    {
        return new self($datum, $to, ($datum->kind === 'plane') === $flip ? 1.0 : -1.0);
    }

    /**
     * @param  string|null  $as  such as `-z`: where the normal or axis points
     */
    public static function pointing(Datum $datum, ?string $as): self
    {
        return $as === null ? new self($datum, null, 1.0) : new self($datum, strtoupper($as[strlen($as) - 1]), $as[0] === '-' ? -1.0 : 1.0);
    }

    /** Whether somebody said what shall become of it. */
    public function isAsked(): bool
    {
        return $this->to !== null;
    }

    /** The same, told to become the origin. */
    public function asOrigin(): self
    {
        return new self($this->datum, 'origin', $this->sign);
    }

    /** The axis that is named, 0 to 2. */
    public function named(): ?int
    {
        $at = $this->to !== null && strlen($this->to) === 1 ? strpos('XYZ', $this->to) : false;

        return $at === false ? null : $at;
    }

    /** The axis square to the plane of the frame that a line or point shall lie in; null unless it shall. */
    public function normal(): ?int
    {
        $at = $this->datum->kind === 'plane' ? false : array_search($this->to, self::PLANES, true);

        return $at === false ? null : $at;
    }

    /**
     * The axis that its direction becomes.
     *
     * @param  int|null  $taken  the axis that a datum before it has become
     * @return int|null null when it leaves that open
     */
    public function axis(?int $taken): ?int
    {
        $named = $this->named();
        if ($named !== null) {
            return $named;
        }
        $square = array_search($this->to, self::PLANES, true);
        if ($square === false) {
            return $taken === null ? ($this->datum->kind === 'plane' ? 2 : 0) : ($taken + 1) % 3;
        }
        if ($this->datum->kind === 'plane') {
            return $square;
        }
        // A line in a plane: of the plane's two axes the one that is not taken; where the taken one is square to the plane, the first of them.
        if ($taken === null) {
            return null;
        }

        return $taken === $square ? ($square + 1) % 3 : 3 - $taken - $square;
    }
}
