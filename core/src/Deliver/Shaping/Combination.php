<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Algorithms\Cutting\MeshBoolean;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * A body and another mesh added, taken away, or reduced to what they have in common: the kernel of all changes of shape, with the evidence of both carried on.
 *
 * Where surfaces lie so nearly on each other that rounding would make the result cross itself, the other mesh is moved aside by far less than anything that could be measured, and a note says by how much.
 */
final readonly class Combination
{
    /** Tried one after the other: how far the other mesh is moved aside, as a share of the diagonal of both. */
    private const ASIDE = [0.0, 1e-9, -1e-9, 1e-8, -1e-8, 1e-7, -1e-7, 1e-6];

    /** The way it is moved: along no axis, plane or diagonal of a part that stands straight. */
    private const WAY = [0.6353, 0.5417, 0.5504];

    /** @param  list<string>  $notes */
    private function __construct(public TriangleMesh $mesh, public array $notes)
    {
    }

    /**
     * @param  string  $kind  of MeshBoolean
     * @param  bool  $isTool  whether all of the other mesh's surface counts as made, whatever is known of it
     *
     * @throws UnsuitableInput with the place, where a mesh is open or crosses itself, or nothing would change or be left
     */
    public static function of(string $name, TriangleMesh $one, string $otherName, TriangleMesh $other, string $kind, bool $isTool, Progress $progress): self
    {
        self::refuseOpen($name, $one);
        self::refuseOpen($otherName, $other);
        $box = BoundingBox::of([...$one->positions, ...$other->positions]);
        $made = null;
        $notes = [];
        foreach (self::ASIDE as $k => $share) {
            $by = $share * $box->diagonal();
            $moved = $share === 0.0 ? $other->positions : self::moved($other->positions, $by);
            $made = MeshBoolean::of([$one->positions, $one->faces], [$moved, $other->faces], $kind, fn (float $done) => $progress->advance('combining', ($k + $done) / count(self::ASIDE)));
            if ($made->trouble === null) {
                $share === 0.0 || $notes[] = sprintf('%s is moved aside by %.1g mm: its surface lies so nearly on that of %s that rounding would make them cross.', $otherName, abs($by), $name);

                break;
            }
        }
        if ($made->trouble !== null) {
            throw UnsuitableInput::because(sprintf('%s and %s cannot be combined near (%.2f, %.2f, %.2f): one of them crosses itself there. Inspect and repair both, then try again.', $name, $otherName, ...$made->trouble));
        }
        self::refuseIdle($made, $name, $one, $otherName, $kind);

        return new self(self::withEvidence($made, $one, $other, $isTool), $notes);
    }

    /** @throws UnsuitableInput with the place, where a mesh is not closed, or it is inside out */
    public static function refuseOpen(string $name, TriangleMesh $mesh): void
    {
        foreach (Topology::twins($mesh->faces) as $h => $twin) {
            if ($twin < 0) {
                $o = 3 * $mesh->faces[$h];
                throw UnsuitableInput::because(sprintf('%s is not closed near (%.2f, %.2f, %.2f). Fill its holes and repair it first: Inspect shows where.', $name, $mesh->positions[$o], $mesh->positions[$o + 1], $mesh->positions[$o + 2]));
            }
        }
        if (Measure::volume($mesh->positions, $mesh->faces) <= 0.0) {
            throw UnsuitableInput::because("$name is inside out: it encloses no volume. Repair turns it.");
        }
    }

    private static function refuseIdle(MeshBoolean $made, string $name, TriangleMesh $one, string $otherName, string $kind): void
    {
        if ($made->faces === []) {
            throw UnsuitableInput::because($kind === MeshBoolean::DIFFERENCE ? "Nothing of $name would be left: it lies within $otherName." : "$name and $otherName have nothing in common.");
        }
        if ($made->met) {
            return;
        }
        $own = count(array_filter($made->source, fn (int $t) => $t < $one->faceCount()));
        if ($kind === MeshBoolean::DIFFERENCE && $own === count($made->source)) {
            throw UnsuitableInput::because("$otherName does not meet $name. Move it there first.");
        }
        if ($kind === MeshBoolean::UNION) {
            throw UnsuitableInput::because($own === count($made->source) ? "$otherName lies within $name: there is nothing to add." : ($own === 0 ? "$name lies within $otherName." : "$otherName does not meet $name. Move it there first; Join makes one body of parts that lie apart."));
        }
    }

    private static function withEvidence(MeshBoolean $made, TriangleMesh $one, TriangleMesh $other, bool $isTool): TriangleMesh
    {
        $support = [];
        if ($one->support !== [] || $other->support !== []) {
            $support = [...($one->support === [] ? array_fill(0, $one->vertexCount(), 0) : $one->support), ...($other->support === [] ? array_fill(0, $other->vertexCount(), 0) : $other->support)];
            foreach ($made->between as [$a, $b, $t]) {
                $support[] = $support[$t < 0.5 ? $a : $b];
            }
        }
        $isMade = $isTool || $other->support === [];
        $origin = [];
        foreach ($made->source as $t) {
            $k = $t - $one->faceCount();
            $origin[] = $k < 0 ? $one->origin[$t] ?? TriangleMesh::MEASURED : ($isMade ? TriangleMesh::MADE : $other->origin[$k] ?? TriangleMesh::MEASURED);
        }
        $mesh = TriangleMesh::fromFlat($made->positions, $made->faces, $support, $origin);

        return $mesh->withFaces(range(0, $mesh->faceCount() - 1));
    }

    /**
     * @param  list<float>  $positions
     * @return list<float>
     */
    private static function moved(array $positions, float $by): array
    {
        foreach ($positions as $i => $x) {
            $positions[$i] = $x + $by * self::WAY[$i % 3];
        }

        return $positions;
    }
}
