<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/** How well registering knows where a pass stands among the others: one standard deviation. */
final readonly class PoseError
{
    /**
     * @param  float  $shiftMm  of the middle of the pass, in the direction that is known worst
     * @param  float  $turnDeg  about the axis that is known worst
     */
    public function __construct(public float $shiftMm, public float $turnDeg)
    {
    }

    /** Of a pass that the others were registered to. */
    public static function none(): self
    {
        return new self(0.0, 0.0);
    }

    /** Of the same pass when all lengths are larger by a factor; turns stay. */
    public function scaled(float $factor): self
    {
        return new self($this->shiftMm * $factor, $this->turnDeg);
    }

    /** @return array{shiftMm: float, turnDeg: float} */
    public function toArray(): array
    {
        return ['shiftMm' => $this->shiftMm, 'turnDeg' => $this->turnDeg];
    }

    /** @param  array{shiftMm: float|int, turnDeg: float|int}|null  $data  as toArray() gave it */
    public static function fromArray(?array $data): ?self
    {
        return $data === null ? null : new self((float) $data['shiftMm'], (float) $data['turnDeg']);
    }
}
