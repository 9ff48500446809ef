<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Param;

/** What `simple-body` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SimpleBodyParameters
{
    private const ROUND = ['cylinder', 'cone', 'ball', 'tube'];

    /** @param  string|array<string, mixed>  $axis  X, Y, Z, the name of a datum, or {"point", "direction"} in mm */
    public function __construct(
        #[Param('Shape', 'What it is.', choices: ['box', 'cylinder', 'cone', 'ball', 'tube'])]
        public string $kind = 'cylinder',
        #[Param('Along', 'It stands on the place of this axis, along its direction.', picks: 'axis')]
        public string|array $axis = 'Z',
        #[Param('Start', 'How far along the axis it begins; less than 0 is behind the place of the axis.', unit: 'mm')]
        public float $start = 0.0,
        #[Param('Diameter', 'Of a cone at its bottom; of a tube outside.', unit: 'mm', positive: true)]
        public float $diameter = 10.0,
        #[Param('Diameter at the top', '0 makes a point.', unit: 'mm', min: 0.0, with: ['kind' => 'cone'])]
        public float $top = 0.0,
        #[Param('Bore', 'The diameter inside.', unit: 'mm', positive: true, with: ['kind' => 'tube'])]
        public float $bore = 6.0,
        #[Param('Length', 'Across the axis.', unit: 'mm', positive: true, with: ['kind' => 'box'])]
        public float $length = 10.0,
        #[Param('Width', 'Across the axis, square to the length.', unit: 'mm', positive: true, with: ['kind' => 'box'])]
        public float $width = 10.0,
        #[Param('Height', 'Along the axis; a ball has none of its own.', unit: 'mm', positive: true)]
        public float $height = 10.0,
        #[Param('Name', 'Of the new body.', empty: 'as its shape')]
        public ?string $name = null,
    ) {
        AxisChoice::check('axis', $axis);
        if ($kind === 'tube' && $bore >= $diameter) {
            throw InvalidParameter::of('bore', sprintf('is %g mm, but the tube is %g mm wide outside; make it less', $bore, $diameter));
        }
        if ($name !== null && trim($name) === '') {
            throw InvalidParameter::of('name', 'is empty; leave it out, or name the body');
        }
    }

    /** Its name, or its shape where none was given. */
    public function nameOfBody(): string
    {
        return $this->name ?? ucfirst($this->kind);
    }

    /** In words: "cylinder 10 × 20 mm". */
    public function size(): string
    {
        $numbers = match ($this->kind) {
            'box' => [$this->length, $this->width, $this->height],
            'ball' => [$this->diameter],
            'cone' => [$this->diameter, $this->top, $this->height],
            'tube' => [$this->diameter, $this->bore, $this->height],
            default => [$this->diameter, $this->height],
        };

        return sprintf('%s %s%s mm', $this->kind, in_array($this->kind, self::ROUND, true) ? 'Ø ' : '', implode(' × ', array_map(fn (float $x) => sprintf('%g', $x), $numbers)));
    }
}
