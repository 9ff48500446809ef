<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Places;
use Emberstone\Core\Rims\PatchShape;

/**
 * What `fill-holes` takes: each parameter says in its #[Param] what it is, its unit and its range.
 *
 * @phpstan-type Stretch array{from: array{float, float, float}, to: array{float, float, float}, side: array{float, float, float}|null, diameter: float|null}
 */
final readonly class FillHolesParameters
{
    /**
     * @param  array<mixed>|null  $rims  a place on or near each rim that is meant, mm; with its width ({"at", "diameter"}) it means a rim of about that size near there, and nothing else
     * @param  array<mixed>|null  $leaveOpen  the same for rims that shall stay open
     * @param  array<mixed>|null  $parts  one side of a rim each, up to a curve between two places on it, see Places::stretches: {"from", "to", "side"}
     * @param  array<mixed>|null  $strips  two stretches of rim each: [{"from", "to"}, {"from", "to"}]
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
        #[Param('Follows its surroundings', 'How new surface goes on from its surroundings: 0 straight across, 0.5 along the slope at the rim, 1 with their bend; empty goes by the shape.', min: 0.0, max: 1.0)]
        public ?float $follow = null,
        #[Param('Parts', 'Sides of rims that are closed up to a curve between two places; then no whole rim is closed but those named.', picks: 'rims')]
        public ?array $parts = null,
        #[Param('Strips', 'Pairs of stretches of rim that are joined by a strip of new surface; then no whole rim is closed but those named.', picks: 'rims')]
        public ?array $strips = null,
    ) {
        $this->partsOfRims();
        $this->stripsBetweenRims();
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

    public function patchShape(): PatchShape
    {
        return $this->follow === null ? PatchShape::of($this->shape) : PatchShape::following($this->follow);
    }

    /** Whether rims are closed whole that nobody has named. */
    public function closesAll(): bool
    {
        return $this->rims === null && ($this->parts ?? []) === [] && ($this->strips ?? []) === [];
    }

    /** @return list<Stretch> with a side */
    public function partsOfRims(): array
    {
        return Places::stretches('parts', $this->parts ?? [], true);
    }

    /**
     * @return list<array{Stretch, Stretch}>
     *
     * @throws InvalidParameter when a member is no pair of stretches
     */
    public function stripsBetweenRims(): array
    {
        $strips = $this->strips ?? [];
        if (! array_is_list($strips) || array_filter($strips, fn (mixed $pair) => ! is_array($pair) || ! array_is_list($pair) || count($pair) !== 2) !== []) {
            throw InvalidParameter::of('strips', 'must be a list of pairs of stretches');
        }

        return array_map(function (array $pair): array {
            [$one, $two] = Places::stretches('strips', $pair, false);

            return [$one, $two];
        }, $strips);
    }
}
