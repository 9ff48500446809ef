<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;

/** What an operation works on: passes, bodies and datums of one project, and the artefacts of its steps. Lengths in millimetres. */
final readonly class Workpiece
{
    /** Points from which on not all passes are asked for their spacing; and how many then are, at most. */
    private const MANY_POINTS = 2_000_000;

    private const ASKED = 8;

    /**
     * @param  list<Pass>  $passes
     * @param  list<Body>  $bodies
     * @param  list<Datum>  $datums
     * @param  list<Artefact>  $artefacts
     * @param  list<Body>  $earlier  the bodies as an earlier step left them, moved along with all that has moved since; given only to an operation that LooksBack, and only when it asks
     * @param  float|null  $scaleError  how well the scale is known, see Result; told to every operation, and kept by whoever runs them
     */
    public function __construct(
        public array $passes = [],
        public array $bodies = [],
        public array $datums = [],
        public array $artefacts = [],
        public array $earlier = [],
        public ?float $scaleError = null,
    ) {
    }

    /**
     * The same with what only its history tells, see the constructor.
     *
     * @param  list<Body>  $earlier
     */
    public function remembering(array $earlier, ?float $scaleError): self
    {
        return new self($this->passes, $this->bodies, $this->datums, $this->artefacts, $earlier, $scaleError);
    }

    /** @param  list<Pass>  $passes */
    public function withPasses(array $passes): self
    {
        return new self($passes, $this->bodies, $this->datums, $this->artefacts);
    }

    /** @param  list<Body>  $bodies */
    public function withBodies(array $bodies): self
    {
        return new self($this->passes, $bodies, $this->datums, $this->artefacts);
    }

    /** @param  list<Datum>  $datums */
    public function withDatums(array $datums): self
    {
        return new self($this->passes, $this->bodies, $datums, $this->artefacts);
    }

    /** @param  list<Artefact>  $artefacts */
    public function withArtefacts(array $artefacts): self
    {
        return new self($this->passes, $this->bodies, $this->datums, $artefacts);
    }

    /** Everything moved together. */
    public function moved(RigidTransform $by): self
    {
        return new self(
            array_map(fn (Pass $pass) => $pass->movedAlong($by), $this->passes),
            array_map(fn (Body $body) => $body->moved($by), $this->bodies),
            array_map(fn (Datum $datum) => $datum->moved($by), $this->datums),
            array_map(fn (Artefact $artefact) => $artefact->moved($by), $this->artefacts),
        );
    }

    /** Everything larger or smaller about the origin of the project. */
    public function scaled(float $factor): self
    {
        return new self(
            array_map(fn (Pass $pass) => $pass->scaled($factor), $this->passes),
            array_map(fn (Body $body) => $body->scaled($factor), $this->bodies),
            array_map(fn (Datum $datum) => $datum->scaled($factor), $this->datums),
            array_map(fn (Artefact $artefact) => $artefact->scaled($factor), $this->artefacts),
        );
    }

    /**
     * Some passes and bodies moved together; datums and artefacts go along with their body.
     *
     * @param  list<string>  $ids
     */
    public function movedOnly(array $ids, RigidTransform $by): self
    {
        $passIds = array_map(fn (Pass $pass) => $pass->id, $this->passes);

        return new self(
            array_map(fn (Pass $pass) => in_array($pass->id, $ids, true) ? (count(array_diff($passIds, $ids)) === 0 ? $pass->movedAlong($by) : $pass->moved($pass->transform->then($by), $pass->residual, $pass->overlap)) : $pass, $this->passes),
            array_map(fn (Body $body) => in_array($body->id, $ids, true) ? $body->moved($by) : $body, $this->bodies),
            array_map(fn (Datum $datum) => $datum->bodyId !== null && in_array($datum->bodyId, $ids, true) ? $datum->moved($by) : $datum, $this->datums),
            array_map(fn (Artefact $artefact) => in_array($artefact->bodyId, $ids, true) ? $artefact->moved($by) : $artefact, $this->artefacts),
        );
    }

    /**
     * The pass or body of that name or id.
     *
     * @throws UnsuitableInput when there is nothing at all
     * @throws InvalidParameter when there is none of that name
     */
    public function named(string $parameter, string $name): Pass|Body
    {
        $this->refuseEmpty();
        $all = [...$this->passes, ...$this->bodies];
        foreach ($all as $one) {
            if ($one->id === $name || $one->name === $name) {
                return $one;
            }
        }
        throw InvalidParameter::of($parameter, "names \"$name\", but there are ".implode(', ', array_map(fn (Pass|Body $one) => $one->name, $all)));
    }

    /**
     * The pass or body of that name or id, or those that a tag stands for.
     *
     * @param  array<string, list<string>>  $tags  ids by tag
     * @return list<Pass|Body>
     *
     * @throws InvalidParameter when there is none
     */
    public function called(string $name, array $tags = []): array
    {
        $ids = $tags[$name] ?? [$name];
        $all = [...$this->passes, ...$this->bodies];
        $found = array_values(array_filter($all, fn (Pass|Body $one) => in_array($one->id, $ids, true)));
        $found = $found === [] ? array_values(array_filter($all, fn (Pass|Body $one) => $one->name === $name)) : $found;

        return $found !== [] ? $found : throw InvalidParameter::of('on', "names \"$name\", but there ".($all === [] ? 'is nothing' : (count($all) === 1 ? 'is ' : 'are ').implode(', ', array_map(fn (Pass|Body $one) => $one->name, $all))).($tags === [] ? '' : ', and the tags '.implode(', ', array_keys($tags))));
    }

    /** @throws UnsuitableInput when there is neither a pass nor a body */
    public function refuseEmpty(): void
    {
        if ($this->passes === [] && $this->bodies === []) {
            throw UnsuitableInput::because('There is nothing here yet: bring in passes or bodies first.');
        }
    }

    /** @return array<string, true> by id: the passes and bodies that there are */
    public function ids(): array
    {
        return array_fill_keys(array_map(fn (Pass|Body $one) => $one->id, [...$this->passes, ...$this->bodies]), true);
    }

    /** @return list<Body> those that are meshes */
    public function meshes(): array
    {
        return array_values(array_filter($this->bodies, fn (Body $body) => $body->geometry instanceof TriangleMesh));
    }

    /**
     * Puts every mesh through $work (in project coordinates) and keeps the rest.
     *
     * @param  callable(TriangleMesh, Body, Progress): TriangleMesh  $work
     *
     * @throws UnsuitableInput when there is no mesh
     */
    public function reshapedMeshes(callable $work, Progress $progress): self
    {
        $meshes = count($this->meshes());
        if ($meshes === 0) {
            throw UnsuitableInput::because('There is no mesh to work on: fuse the passes first, or bring in a mesh.');
        }
        $bodies = [];
        $done = 0;
        foreach ($this->bodies as $body) {
            $geometry = $body->placed();
            if (! $geometry instanceof TriangleMesh) {
                $bodies[] = $body;

                continue;
            }
            $bodies[] = $body->reshaped($work($geometry, $body, new PartProgress($progress, $done / $meshes, ($done + 1) / $meshes)));
            $done++;
        }

        return $this->withBodies($bodies);
    }

    public function faceCount(): int
    {
        return array_sum(array_map(fn (Body $body) => $body->geometry instanceof TriangleMesh ? $body->geometry->faceCount() : 0, $this->bodies));
    }

    public function pointCount(): int
    {
        return array_sum(array_map(fn (Pass $pass) => $pass->keptCount(), $this->passes));
    }

    /** How far apart the same place may be on two passes as scanners leave them, mm: ten times the spacing, to three figures, which is all that a median is worth. Null without points. */
    public function reachMm(): ?float
    {
        $reach = 10.0 * ($this->spacingMm() ?? 0.0);
        if ($reach <= 0.0) {
            return null;
        }
        $unit = 10.0 ** (floor(log10($reach)) - 2.0);

        return round($reach / $unit) * $unit;
    }

    /** The typical distance between neighbouring points of a pass, the median over the passes; null without points. */
    public function spacingMm(): ?float
    {
        $passes = array_values(array_filter($this->passes, fn (Pass $pass) => $pass->keptCount() > 1));
        if ($passes === []) {
            return null;
        }
        $spacing = fn (Pass $pass): float => PointGrid::of($pass->keptCloud()->positions)->medianSpacing(300);
        if ($this->pointCount() < self::MANY_POINTS) {
            return Median::of(array_map($spacing, $passes));
        }
        // Of many points a few passes say as much, each in a process of its own.
        $step = intdiv(count($passes) - 1, self::ASKED) + 1;
        $asked = array_filter($passes, fn (int $k) => $k % $step === 0, ARRAY_FILTER_USE_KEY);
        $answers = Fork::map(array_values(array_map(fn (Pass $pass) => fn (): string => Packed::doubles([$spacing($pass)]), $asked)), Cores::count());

        return Median::of(Packed::toDoubles(implode('', $answers)));
    }
}
