<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Param;

/** What `repeat-around` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class RepeatAroundParameters
{
    /** Sectors of one body: more than a wheel has teeth. */
    private const MOST = 720;

    /** Degrees: a sector that is no whole number of places by less is one. */
    private const NEAR = 0.01;

    /**
     * @param  string|array<string, mixed>  $axis  X, Y, Z, the name of a datum, or {"point", "direction"} in mm
     * @param  array<string, mixed>|null  $sector  {"from", "to"} in degrees
     * @param  string|null  $body  id or name of the one body that is changed; a short way to say `on`
     * @param  array<int, string>|null  $on  ids or names of the bodies that are changed; all meshes when both are null
     */
    public function __construct(
        #[Param('Axis', 'What the sectors lie around.', picks: 'axis')]
        public string|array $axis,
        #[Param('Count', 'How many places alike there are around the axis.', min: 2.0, max: self::MOST)]
        public int $count,
        #[Param('Good from', 'Where the good sector begins, turned about the axis from X of the frame (from Y about X itself); empty for the place that is most like the others.', unit: 'deg', empty: 'the best')]
        public ?float $from = null,
        #[Param('Only beyond', 'What lies nearer to the axis than this radius stays as it is: a hub with a keyway, windows.', unit: 'mm', positive: true, empty: 'all')]
        public ?float $beyond = null,
        #[Param('Blend', 'Width within which one sector passes into the next, on the outside, and into what stays.', unit: 'mm', positive: true, empty: 'by size')]
        public ?float $blend = null,
        #[Param('Sector', '{"from", "to"}: the bounds of the good sector. More than one place is taken where it spans more.', picks: 'recipe')]
        public ?array $sector = null,
        #[Param('Body', 'The body that is changed.', picks: 'recipe')]
        public ?string $body = null,
        #[Param('On', 'Bodies that are changed.', picks: 'works')]
        public ?array $on = null,
    ) {
        AxisChoice::check('axis', $axis);
        Choice::check($body, $on);
        if ($sector === null) {
            return;
        }
        foreach (['from', 'to'] as $key) {
            if (! is_int($sector[$key] ?? null) && ! is_float($sector[$key] ?? null)) {
                throw InvalidParameter::of('sector', 'needs "from" and "to", angles in degrees');
            }
        }
        if ($from !== null) {
            throw InvalidParameter::of('sector', 'and "from" say the same; leave one out');
        }
        $span = $this->span();
        $places = (int) round($span * $count / 360.0);
        if ($places < 1 || abs($span - 360.0 * $places / $count) > self::NEAR || $count % $places !== 0 || $span > 180.0 + self::NEAR) {
            $good = array_filter(range(1, $count), fn (int $k) => $count % $k === 0 && 2 * $k <= $count);
            throw InvalidParameter::of('sector', sprintf('spans %g degrees, which is no whole part of a turn of %d places; it may span %s degrees', $span, $count, implode(', ', array_map(fn (int $k) => round(360.0 * $k / $count, 3), $good))));
        }
    }

    /** Sectors around the axis: as many as there are places, or fewer where the good sector spans several. */
    public function copies(): int
    {
        return $this->sector === null ? $this->count : intdiv($this->count, max(1, (int) round($this->span() * $this->count / 360.0)));
    }

    /** Where the good sector begins, degrees; null where it is looked for. */
    public function begins(): ?float
    {
        return $this->sector === null ? $this->from : (float) $this->sector['from'];
    }

    /** Degrees, more than 0: an end before the beginning is one turn on. */
    private function span(): float
    {
        $span = fmod((float) ($this->sector['to'] ?? 0.0) - (float) ($this->sector['from'] ?? 0.0), 360.0);

        return $span > 0.0 ? $span : $span + 360.0;
    }
}
