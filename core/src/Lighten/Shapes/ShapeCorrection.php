<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Shapes;

use Emberstone\Core\Algorithms\Shapes\AreaFit;
use Emberstone\Core\Algorithms\Shapes\FaceField;
use Emberstone\Core\Algorithms\Shapes\FoundShape;
use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;

/** The shapes of one body in correction: some faces get another shape, and what changed is fitted anew; all other shapes stay as they are. */
final readonly class ShapeCorrection
{
    /** Times the noise of the shape that fits worst: how far a corrected shape may lie off, root mean square. */
    private const OFF = 2.5;

    private function __construct(private Workpiece $whole, private Artefact $artefact, public Body $body, public TriangleMesh $mesh, public ShapeMap $map)
    {
    }

    /**
     * @param  list<string>  $ids  of shapes of one body
     *
     * @throws InvalidParameter when there are no such shapes, or they are of several bodies
     * @throws UnsuitableInput when the body has changed since
     */
    public static function of(Workpiece $workpiece, array $ids): self
    {
        $artefacts = array_map(fn (string $id) => ShapeMap::having($workpiece->artefacts, $id, 'shapes'), $ids);
        foreach ($artefacts as $one) {
            if ($one !== $artefacts[0]) {
                throw InvalidParameter::of('shapes', 'are of several bodies; name shapes of one');
            }
        }
        $artefact = $artefacts[0];
        $body = array_column($workpiece->meshes(), null, 'id')[$artefact->bodyId ?? ''] ?? throw UnsuitableInput::because('The body of these shapes is not here any more: find shapes on what there is.');
        $map = ShapeMap::ofArtefact($artefact);
        $mesh = $body->placedMesh();
        if (count($map->labels) !== $mesh->faceCount()) {
            throw UnsuitableInput::because("$body->name has changed since its shapes were found: find them again.");
        }

        return new self($workpiece, $artefact, $body, $mesh, $map);
    }

    /**
     * @param  list<string>  $ids
     * @return list<int> where they stand in the list
     */
    public function places(array $ids): array
    {
        $at = array_flip(array_column($this->map->entries, 'id'));

        return array_map(fn (string $id) => $at[$id], $ids);
    }

    /**
     * The same with other faces for some shapes: those, and new ones at the end of the list, are fitted anew; a shape without faces goes.
     *
     * @param  list<int>  $labels
     * @param  array<int, string>  $changed  ids by place in the list
     */
    public function refitted(array $labels, array $changed): self
    {
        $field = FaceField::of($this->mesh->positions, $this->mesh->faces);
        $of = [];
        foreach ($labels as $t => $label) {
            $of[$label][] = $t;
        }
        $axes = $worst = [];
        foreach ($this->map->entries as $one) {
            $worst[] = $one['rms'];
            if (in_array($one['kind'], ['cylinder', 'cone', 'torus'], true)) {
                $axes[] = new TurnedShape('cylinder', $one['origin'], $one['direction'], $one['radius']);
            }
        }
        $number = FindShapes::nextNumber($this->whole->artefacts);
        $entries = [];
        foreach ($of as $label => $faces) {
            $old = $this->map->entries[$label] ?? null;
            if ($old !== null && ! isset($changed[$label])) {
                $entries[$label] = $old;

                continue;
            }
            $shape = AreaFit::plainest($field, $faces, $axes, self::OFF * max(1e-9, ...$worst));
            // A list of one, whose faces are those of that shape.
            $alone = ShapeMap::of($this->mesh, array_map(fn (int $l) => $l === $label ? 0 : 1, $labels), [$shape, new FoundShape(FoundShape::FREE, null, 0, 0.0, 0.0, 0.0)], 1)->entries[0];
            $entries[$label] = ['id' => $changed[$label] ?? 'shape-'.$number++] + $alone;
        }
        // Areas that are the same but for rounding keep their order.
        ksort($entries);
        uasort($entries, fn (array $a, array $b) => (float) sprintf('%.9e', $b['area']) <=> (float) sprintf('%.9e', $a['area']));
        $at = array_flip(array_keys($entries));

        return new self($this->whole, $this->artefact, $this->body, $this->mesh, new ShapeMap(array_map(fn (int $label) => $at[$label], $labels), array_values($entries)));
    }

    public function workpiece(): Workpiece
    {
        $made = $this->map->artefact($this->body, $this->artefact);

        return $this->whole->withArtefacts(array_map(fn (Artefact $one) => $one === $this->artefact ? $made : $one, $this->whole->artefacts));
    }
}
