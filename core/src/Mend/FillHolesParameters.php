<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Places;

/** What `fill-holes` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class FillHolesParameters
{
    /**
     * @param  array<mixed>|null  $rims  a place on or near each rim that is meant, mm; with its width ({"at", "diameter"}) it means a rim of about that size near there, and nothing else
     * @param  array<mixed>|null  $leaveOpen  the same for rims that shall stay open
     */
    public function __construct(
        #[Param('Shape', 'flat spans the rim, tangent follows the slope there, curved the curvature.', choices: ['flat', 'tangent', 'curved'])]
        public string $shape = 'tangent',
        #[Param('Largest opening', 'Rims wider than this stay open; empty fills all.', unit: 'mm', positive: true)]
        public ?float $maxDiameter = null,
        #[Param('Rims', 'Only the rims nearest to these places are closed; without them all are.', picks: 'rims')]
        public ?array $rims = null,
        #[Param('Leave open', 'The rims nearest to these places stay open; that is remembered, and the ready card counts them as wanted.', picks: 'rims')]
        public ?array $leaveOpen = null,
    ) {
        foreach (['rims' => $rims, 'leaveOpen' => $leaveOpen] as $name => $places) {
            if ($places !== null) {
                Places::onRims($name, $places);
            }
        }
    }

    /** @return array{rims?: list<array{at: array{float, float, float}, diameter: float|null}>, leaveOpen?: list<array{at: array{float, float, float}, diameter: float|null}>} the picks of each list that has any */
    public function picks(): array
    {
        return array_filter(['rims' => Places::onRims('rims', $this->rims ?? []), 'leaveOpen' => Places::onRims('leaveOpen', $this->leaveOpen ?? [])]);
    }
}
