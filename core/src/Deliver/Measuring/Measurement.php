<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

/** A measured value with how sure it is: mm, mm², mm³ or degrees. */
final readonly class Measurement
{
    /** Of standard deviations: about 95 % of values lie within. */
    public const COVERAGE = 2.0;

    /**
     * @param  string  $unit  `mm`, `mm2`, `mm3` or `deg`
     * @param  float|null  $deviation  standard deviation, from the fits; null where nothing tells it
     * @param  array<string, float>  $more  further figures in the same unit, such as the outer diameter of an opening
     * @param  array{float, float, float}|null  $place  where it was found, mm
     * @param  list<array{float, float, float}>  $line  along which it was measured, from end to end, mm, as a dimension is drawn; empty where there is none
     */
    public function __construct(public float $value, public string $unit, public ?float $deviation, public array $more = [], public ?array $place = null, public array $line = [])
    {
    }

    /** @return float|null half the width of the interval that holds the true value in 95 of 100 cases */
    public function uncertainty(): ?float
    {
        return $this->deviation === null ? null : self::COVERAGE * $this->deviation;
    }

    /**
     * Whether it is within tolerance: `in`, `out`, or `unsure` where the limit lies within the uncertainty; null without a tolerance.
     *
     * @param  float|null  $plus  allowed above the nominal; nothing is said of that side when null
     */
    public function verdict(?float $nominal, ?float $plus, ?float $minus): ?string
    {
        if ($nominal === null || ($plus === null && $minus === null)) {
            return null;
        }
        // How far inside the nearer limit.
        $room = min($plus === null ? INF : $nominal + $plus - $this->value, $minus === null ? INF : $this->value - $nominal + $minus);

        return abs($room) < ($this->uncertainty() ?? 0.0) ? 'unsure' : ($room >= 0.0 ? 'in' : 'out');
    }

    /** In words: "30.012 ± 0.026 mm". */
    public function inWords(): string
    {
        $unit = ['mm' => ' mm', 'mm2' => ' mm²', 'mm3' => ' mm³', 'deg' => '°'][$this->unit];
        $u = $this->uncertainty();
        // Two digits of the uncertainty are worth saying.
        $decimals = $u === null || $u <= 0.0 ? 3 : max(0, min(6, 1 - (int) floor(log10($u))));

        return number_format($this->value, $decimals).($u === null ? '' : ' ± '.number_format($u, $decimals)).$unit;
    }
}
