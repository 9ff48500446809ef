<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Unit;

/** What the receiver needs. */
final readonly class Brief
{
    public const UP_AXES = ['+x', '-x', '+y', '-y', '+z', '-z'];

    /**
     * @param  Unit  $unit  of the delivered files
     * @param  string  $up  which axis of the delivered file points up
     * @param  float  $toleranceMm  how far the raw points may lie from the mesh (95 of 100)
     * @param  float  $leastMeasured  share of the area, 0 to 1
     */
    public function __construct(
        public Unit $unit = Unit::Millimetre,
        public string $up = '+z',
        public int $faceBudget = 60000,
        public float $toleranceMm = 0.2,
        public bool $closed = true,
        public float $leastMeasured = 0.9,
    ) {
        if (! in_array($up, self::UP_AXES, true)) {
            throw InvalidParameter::of('up', 'must be one of '.implode(', ', self::UP_AXES));
        }
        if ($faceBudget < 100) {
            throw InvalidParameter::outOfRange('faceBudget', $faceBudget, 100, null);
        }
        if (! ($toleranceMm > 0.0)) {
            throw InvalidParameter::of('toleranceMm', 'must be greater than 0');
        }
        if ($leastMeasured < 0.0 || $leastMeasured > 1.0) {
            throw InvalidParameter::outOfRange('leastMeasured', $leastMeasured, 0.0, 1.0);
        }
    }

    /** @param  array<string, mixed>  $data */
    public static function fromArray(array $data): self
    {
        return new self(
            Unit::from((string) ($data['unit'] ?? 'mm')), (string) ($data['up'] ?? '+z'), (int) ($data['faceBudget'] ?? 60000),
            (float) ($data['toleranceMm'] ?? 0.2), (bool) ($data['closed'] ?? true), (float) ($data['leastMeasured'] ?? 0.9),
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['unit' => $this->unit->value] + get_object_vars($this);
    }
}
