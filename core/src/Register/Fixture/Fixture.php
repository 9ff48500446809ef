<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Fixture;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * Where several fixed sensors stand to each other, found once from a target. The open file is JSON:
 *
 *     {"fixture": 1, "unit": "mm", "heads": [{"name": "...", "transform": [16 numbers], "residual": 0.02, "balls": 6, "planes": 4}]}
 *
 * A head's transform is a 4x4 matrix, row by row, from its own coordinates to those of the target (docs/fixture.md).
 */
final readonly class Fixture
{
    /** @param  list<array{name: string, transform: RigidTransform, residual: float, balls: int, planes: int}>  $heads */
    private function __construct(public array $heads)
    {
    }

    /** @param  list<array{name: string, transform: RigidTransform, residual: float, balls: int, planes: int}>  $heads */
    public static function of(array $heads): self
    {
        return new self($heads);
    }

    /**
     * @param  array<mixed>  $data  as decoded from the file
     *
     * @throws InvalidParameter with what is wrong
     */
    public static function fromArray(array $data): self
    {
        if (($data['fixture'] ?? null) !== 1) {
            throw InvalidParameter::of('fixture', 'is not a fixture of version 1: "fixture": 1 is missing');
        }
        if (($data['unit'] ?? 'mm') !== 'mm') {
            throw InvalidParameter::of('fixture', 'is not in millimetres; "unit" must be "mm"');
        }
        $heads = [];
        foreach (is_array($data['heads'] ?? null) ? array_values($data['heads']) : [] as $k => $head) {
            $matrix = is_array($head) ? $head['transform'] ?? null : null;
            if (! is_array($head) || ! is_string($head['name'] ?? null) || ! is_array($matrix)) {
                throw InvalidParameter::of('fixture', 'head '.($k + 1).' needs a name and a transform');
            }
            try {
                $transform = RigidTransform::fromMatrix($matrix);
            } catch (InvalidParameter $bad) {
                throw InvalidParameter::of('fixture', 'head '.($k + 1).': '.$bad->getMessage());
            }
            $heads[] = ['name' => $head['name'], 'transform' => $transform, 'residual' => (float) ($head['residual'] ?? 0.0), 'balls' => (int) ($head['balls'] ?? 0), 'planes' => (int) ($head['planes'] ?? 0)];
        }
        if ($heads === []) {
            throw InvalidParameter::of('fixture', 'has no heads');
        }

        return new self($heads);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['fixture' => 1, 'unit' => 'mm', 'heads' => array_map(fn (array $head) => ['name' => $head['name'], 'transform' => $head['transform']->matrix, 'residual' => round($head['residual'], 6), 'balls' => $head['balls'], 'planes' => $head['planes']], $this->heads)];
    }
}
