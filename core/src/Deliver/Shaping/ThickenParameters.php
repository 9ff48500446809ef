<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Operation\Param;

/** What `thicken` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ThickenParameters
{
    /**
     * @param  float  $distance  mm; the body is twice as thick where it grows to both sides
     * @param  string|null  $body  id or name of the one body that is changed; a short way to say `on`
     * @param  array<int, string>|null  $on  ids or names of the bodies that are changed; all meshes when both are null
     */
    public function __construct(
        #[Param('Distance', 'How far the sheet grows.', unit: 'mm', positive: true)]
        public float $distance,
        #[Param('Towards', 'In: behind the side that was scanned; out: before it; both: as far to each side.', choices: ['in', 'out', 'both'])]
        public string $side = 'in',
        #[Param('Body', 'The body that is changed.', picks: 'recipe')]
        public ?string $body = null,
        #[Param('On', 'Bodies that are changed.', picks: 'works')]
        public ?array $on = null,
    ) {
        Choice::check($body, $on);
    }

    /** How thick the body becomes, mm. */
    public function thickness(): float
    {
        return $this->side === 'both' ? 2.0 * $this->distance : $this->distance;
    }
}
