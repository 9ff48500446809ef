<?php

declare(strict_types=1);

namespace Emberstone\Core\Mesh;

use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Finite;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * A triangle mesh, flat and packed, faces counter-clockwise from outside. Never changed; every method gives a new mesh.
 *
 * Evidence travels with it: `support` says what backs a vertex (see Evidence), `origin` whether a face was measured, or how it was made up.
 *
 * Four-sided cells are kept as two triangles that say so: `quads` lists the faces (a, b, c) that make the cell a, b, c, d with the next one, (a, c, d). Whoever computes sees triangles; views and files see
 * cells. Work that makes other faces leaves the list out, and with it the cells.
 */
final readonly class TriangleMesh
{
    public const MEASURED = 0;

    public const FILLED = 1;

    /** A band across a hole. */
    public const STRIP = 2;

    /** Replaced by a fitted shape or a cover, though it was measured. */
    public const RESHAPED = 3;

    /** Closed inside the volume that a surface was taken from, where no data were. */
    public const CLOSED = 4;

    /** Measured, but moved by more than the noise of its points. */
    public const SMOOTHED = 5;

    /** New surface of a change of shape: the face of a cut. */
    public const MADE = 6;

    /** What is made up, by mark, in words. */
    public const MADE_UP = [self::FILLED => 'filled', self::STRIP => 'strip', self::RESHAPED => 'reshaped', self::CLOSED => 'closed in the volume', self::SMOOTHED => 'smoothed', self::MADE => 'made'];

    /**
     * @param  list<float>  $positions  flat xyz
     * @param  list<int>  $faces  flat vertex indices, three a face
     * @param  list<int>  $support  Evidence a vertex; empty when not known
     * @param  list<int>  $origin  MEASURED or a key of MADE_UP a face; empty when all are measured
     * @param  list<int>  $quads  faces that make a four-sided cell with the next, ascending
     */
    private function __construct(
        public array $positions,
        public array $faces,
        public array $support,
        public array $origin,
        public array $quads = [],
    ) {
    }

    /**
     * @param  array<int, float>  $positions
     * @param  array<int, int>  $faces
     * @param  array<int, int>  $support
     * @param  array<int, int>  $origin
     * @param  array<int, int>  $quads
     *
     * @throws UnsuitableInput when a coordinate is not finite
     */
    public static function fromFlat(array $positions, array $faces, array $support = [], array $origin = [], array $quads = []): self
    {
        assert(array_is_list($positions) && array_is_list($faces) && array_is_list($support) && array_is_list($origin));
        assert(count($positions) % 3 === 0 && count($faces) % 3 === 0);
        assert($support === [] || 3 * count($support) === count($positions));
        assert($origin === [] || 3 * count($origin) === count($faces));
        assert(array_is_list($quads) && self::fit($faces, $quads));

        Finite::coordinates($positions, 'vertex');

        return new self($positions, $faces, $support, $origin, $quads);
    }

    /**
     * Does every quad stand in the list of faces as it should, and none overlap another?
     *
     * @param  array<int, int>  $faces
     * @param  array<int, int>  $quads
     */
    private static function fit(array $faces, array $quads): bool
    {
        $free = 0;
        foreach ($quads as $t) {
            if ($t < $free || 3 * $t + 5 >= count($faces) || $faces[3 * $t] !== $faces[3 * $t + 3] || $faces[3 * $t + 2] !== $faces[3 * $t + 4]) {
                return false;
            }
            $free = $t + 2;
        }

        return true;
    }

    public static function empty(): self
    {
        return new self([], [], [], []);
    }

    /**
     * One mesh of several, in the same coordinates; evidence stays where all of them have it.
     *
     * @param  list<self>  $meshes
     */
    public static function joined(array $meshes): self
    {
        $positions = $faces = $support = $origin = $quads = [];
        $first = 0;
        $supported = array_filter($meshes, fn (self $mesh) => $mesh->support === []) === [];
        $told = array_filter($meshes, fn (self $mesh) => $mesh->origin !== []) !== [];
        foreach ($meshes as $mesh) {
            foreach ($mesh->quads as $t) {
                $quads[] = intdiv(count($faces), 3) + $t;
            }
            foreach ($mesh->positions as $value) {
                $positions[] = $value;
            }
            foreach ($mesh->faces as $v) {
                $faces[] = $first + $v;
            }
            foreach ($supported ? $mesh->support : [] as $value) {
                $support[] = $value;
            }
            for ($t = 0, $m = $told ? $mesh->faceCount() : 0; $t < $m; $t++) {
                $origin[] = $mesh->origin[$t] ?? self::MEASURED;
            }
            $first += $mesh->vertexCount();
        }

        return self::fromFlat($positions, $faces, $support, $origin, $quads);
    }

    public function vertexCount(): int
    {
        return intdiv(count($this->positions), 3);
    }

    public function faceCount(): int
    {
        return intdiv(count($this->faces), 3);
    }

    /** Four-sided cells and the triangles between them. */
    public function cellCount(): int
    {
        return $this->faceCount() - count($this->quads);
    }

    /**
     * The cells in order: what files that know polygons hold.
     *
     * @return iterable<int, list<int>> by the number of their first face: three or four vertices, counter-clockwise
     */
    public function cells(): iterable
    {
        $f = $this->faces;
        $quads = $this->quads;
        $next = 0;
        for ($t = 0, $m = $this->faceCount(); $t < $m; $t++) {
            $o = 3 * $t;
            if (isset($quads[$next]) && $quads[$next] === $t) {
                yield $t++ => [$f[$o], $f[$o + 1], $f[$o + 2], $f[$o + 5]];
                $next++;
            } else {
                yield $t => [$f[$o], $f[$o + 1], $f[$o + 2]];
            }
        }
    }

    /**
     * @param  array<int, float>  $areas  of the faces
     * @return array<string, float> share of the area by how it was made up; none where that is nothing
     */
    public function madeUp(array $areas): array
    {
        $all = max(1e-300, array_sum($areas));
        $shares = array_fill_keys(self::MADE_UP, 0.0);
        foreach ($this->origin as $t => $mark) {
            if ($mark !== self::MEASURED) {
                $shares[self::MADE_UP[$mark] ?? 'filled'] += $areas[$t] / $all;
            }
        }

        return array_filter($shares);
    }

    public function transformed(RigidTransform $transform): self
    {
        if ($transform->isIdentity()) {
            return $this;
        }

        return new self($transform->points($this->positions), $this->faces, $this->support, $this->origin, $this->quads);
    }

    /** Larger or smaller about the origin of its coordinates; what the evidence says of lengths as well. */
    public function scaled(float $factor): self
    {
        if ($factor === 1.0) {
            return $this;
        }
        $support = abs($factor - 1.0) < 1e-9 ? $this->support : array_map(fn (int $one) => Evidence::scaled($one, $factor), $this->support);

        return new self(array_map(fn (float $v) => $factor * $v, $this->positions), $this->faces, $support, $this->origin, $this->quads);
    }

    /** @param  array<int, float>  $positions flat xyz, as many as before */
    public function withPositions(array $positions): self
    {
        return self::fromFlat($positions, $this->faces, $this->support, $this->origin, $this->quads);
    }

    /**
     * The mesh of some of the faces; vertices that none of them uses are dropped.
     *
     * @param  array<int, int>  $keep  face indices
     */
    public function withFaces(array $keep): self
    {
        $p = $this->positions;
        $f = $this->faces;
        $s = $this->support;
        $g = $this->origin;
        $map = array_fill(0, $this->vertexCount(), -1);
        $isQuad = array_fill_keys($this->quads, true);
        $positions = $faces = $support = $origin = $quads = [];
        $next = 0;
        $last = -1;
        foreach ($keep as $t) {
            // Both halves of a cell stay together, or what is left is a triangle.
            if ($isQuad !== [] && isset($isQuad[$t - 1]) && $last === $t - 1) {
                $quads[] = intdiv(count($faces), 3) - 1;
            }
            $last = $t;
            for ($o = 3 * $t, $e = $o + 3; $o < $e; $o++) {
                $v = $f[$o];
                if ($map[$v] < 0) {
                    $map[$v] = $next++;
                    $positions[] = $p[3 * $v];
                    $positions[] = $p[3 * $v + 1];
                    $positions[] = $p[3 * $v + 2];
                    if ($s !== []) {
                        $support[] = $s[$v];
                    }
                }
                $faces[] = $map[$v];
            }
            if ($g !== []) {
                $origin[] = $g[$t];
            }
        }

        return new self($positions, $faces, $support, $origin, $quads);
    }
}
