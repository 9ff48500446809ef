<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\SelectionParameters;
use Emberstone\Core\Operation\Workpiece;

/** Faces of a body that decimation leaves alone, or leaves finer than the rest. */
final readonly class SelectedArea
{
    /** What the forms say of the two parameters. */
    public const SELECTION = 'An area that is left alone, or finer than the rest; without one all is lightened alike.';

    public const FINER = 'How many times as many faces the selected area gets as it would, where it curves; empty leaves it alone.';

    /** Times as many faces: beyond it the weight, its cube, outweighs everything else of a part. */
    public const FINEST = 20.0;

    /** @param  list<int>  $faces */
    private function __construct(private TriangleMesh $mesh, public array $faces, private ?float $finer)
    {
    }

    /** @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>}>|null  $selection  see SelectionParameters */
    public static function of(TriangleMesh $mesh, Body $body, ?array $selection, ?float $finer): self
    {
        $faces = [];
        foreach ($selection === null ? [] : (new SelectionParameters($selection))->ranges($body->id, $mesh->faceCount()) ?? [] as [$from, $to]) {
            array_push($faces, ...range($from, $to));
        }

        return new self($mesh, $faces, $finer);
    }

    /**
     * @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>}>|null  $selection
     *
     * @throws UnsuitableInput when something is selected, but nothing of the meshes
     */
    public static function check(Workpiece $workpiece, ?array $selection): void
    {
        if ($selection !== null && array_intersect(array_column($selection, 'target'), array_map(fn (Body $body) => $body->id, $workpiece->meshes())) === []) {
            throw UnsuitableInput::because('Nothing of a mesh is selected; select the area that stays finer, or drop the selection.');
        }
    }

    /** @return list<int> vertices that stay where they are */
    public function locked(): array
    {
        $vertices = [];
        foreach ($this->finer === null ? $this->faces : [] as $t) {
            for ($c = 0; $c < 3; $c++) {
                $vertices[$this->mesh->faces[3 * $t + $c]] = true;
            }
        }

        return array_keys($vertices);
    }

    /**
     * By how much the errors of its faces count more. Where surface of curvature k is approximated by edges e, the error of a vertex is about its area times (k e^2)^2, so e^6: as many times e^6 as weigh
     * the same with 1/n of the area a face, e^2, is n^3.
     */
    public function weight(): float
    {
        return $this->finer === null ? 1.0 : $this->finer ** 3;
    }

    /** @return list<int> faces that the weight is of */
    public function weighted(): array
    {
        return $this->finer === null ? [] : $this->faces;
    }
}
