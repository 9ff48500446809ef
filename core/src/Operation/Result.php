<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\Names;
use Emberstone\Core\Geometry\Placement;

/** What an operation gives back. The input workpiece is as it was. */
final readonly class Result
{
    /**
     * @param  array<string, mixed>  $before  figures a technician would sign
     * @param  array<string, mixed>  $after
     * @param  list<string>  $notes
     * @param  list<ShadeMap>  $maps  to colour passes or bodies by
     * @param  float|null  $scaleError  how well the scale is known after it, as one standard deviation over the scale; null where it does not tell
     * @param  Placement|null  $everything  the scale (first) and motion that all passes, bodies and datums went through together; null where only some did, or none
     * @param  list<Artefact>  $shown  found to be looked at with the result; they are no things of the workpiece
     */
    public function __construct(
        public Workpiece $workpiece,
        public string $headline,
        public array $before = [],
        public array $after = [],
        public array $notes = [],
        public Outcome $outcome = Outcome::Reached,
        public array $maps = [],
        public ?Placement $everything = null,
        public ?float $scaleError = null,
        public array $shown = [],
    ) {
    }

    /** How well the scale is known now: what the operation says; what was known before, unless it has changed the scale and does not say. */
    public function scaleErrorAfter(?float $before): ?float
    {
        return $this->scaleError ?? ($this->everything !== null && $this->everything->scale !== 1.0 ? null : $before);
    }

    /**
     * The result of work on a part, put back among all: in its old place what was there before, new things at the end.
     *
     * @param  Workpiece  $part  that the operation was given
     */
    public function within(Workpiece $all, Workpiece $part): self
    {
        $before = $part->ids();

        return $this->with(new Workpiece(self::putBack($all->passes, $before, $this->workpiece->passes), self::putBack($all->bodies, $before, $this->workpiece->bodies), $this->datumsWithin($all->datums, $part), $this->artefactsWithin($all->artefacts, $part)), null);
    }

    /**
     * The datums after work on a part: where the part has moved, the datums of its bodies go with it, and no others.
     *
     * @param  list<Datum>  $all  before
     * @return list<Datum>
     */
    public function datumsWithin(array $all, Workpiece $part): array
    {
        if ($this->everything === null) {
            return $this->workpiece->datums;
        }
        $ids = $part->ids();
        $moved = array_combine(array_map(fn (Datum $datum) => $datum->id, $this->workpiece->datums), $this->workpiece->datums);

        return array_map(fn (Datum $datum) => $datum->bodyId !== null && isset($ids[$datum->bodyId]) ? $moved[$datum->id] ?? $datum : $datum, $all);
    }

    /**
     * The artefacts after work on a part: where the part has moved, those of its bodies go with it.
     *
     * @param  list<Artefact>  $all  before
     * @return list<Artefact>
     */
    public function artefactsWithin(array $all, Workpiece $part): array
    {
        if ($this->everything === null) {
            return $this->workpiece->artefacts;
        }
        $ids = $part->ids();

        return array_map(fn (Artefact $was, Artefact $moved) => isset($ids[$was->bodyId ?? '']) ? $moved : $was, $all, $this->workpiece->artefacts);
    }

    /**
     * @template T of Pass|Body
     *
     * @param  list<T>  $all
     * @param  array<string, true>  $before  ids of the part
     * @param  list<T>  $after
     * @return list<T>
     */
    private static function putBack(array $all, array $before, array $after): array
    {
        $changed = [];
        foreach ($after as $one) {
            $changed[$one->id] = $one;
        }
        $put = [];
        foreach ($all as $one) {
            if (! isset($before[$one->id])) {
                $put[] = $one;
            } elseif (isset($changed[$one->id])) {
                $put[] = $changed[$one->id];
                unset($changed[$one->id]);
            }
        }

        return [...$put, ...array_values(array_filter($after, fn (Pass|Body $one) => isset($changed[$one->id])))];
    }

    /** The same where no two things have one name: what is new gives way ("Fused" beside a "Fused" is "Fused-2"). */
    public function withDistinctNames(Workpiece $before): self
    {
        $old = $taken = [];
        foreach ([...$before->passes, ...$before->bodies, ...$before->artefacts] as $one) {
            $old[$one->id] = ($old[$one->id] ?? 0) + 1;
            $taken[$one->name] = true;
        }
        $changed = false;
        $distinct = function (Pass|Body|Artefact $one) use (&$old, &$taken, &$changed): Pass|Body|Artefact {
            if (($old[$one->id] ?? 0) > 0) {
                $old[$one->id]--;

                return $one;
            }
            $name = Names::distinct($one->name, $taken);
            $changed = $changed || $name !== $one->name;

            return $name === $one->name ? $one : $one->named($name);
        };
        // What was there is met first: it stands before what is new.
        /** @var list<Pass> $passes */
        $passes = array_map($distinct, $this->workpiece->passes);
        /** @var list<Body> $bodies */
        $bodies = array_map($distinct, $this->workpiece->bodies);
        /** @var list<Artefact> $artefacts */
        $artefacts = array_map($distinct, $this->workpiece->artefacts);

        return $changed ? $this->with(new Workpiece($passes, $bodies, $this->workpiece->datums, $artefacts), $this->everything) : $this;
    }

    private function with(Workpiece $workpiece, ?Placement $everything): self
    {
        return new self($workpiece, $this->headline, $this->before, $this->after, $this->notes, $this->outcome, $this->maps, $everything, $this->scaleError, $this->shown);
    }
}
