<?php

declare(strict_types=1);

namespace Emberstone\Core\Recipe;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\LooksBack;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\ParamSpec;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;

/** One step of a recipe or ledger: an operation with its parameters, and what it works on. */
final readonly class Step
{
    /** What `on` was called when only some operations had it. */
    private const OLD_NAMES = ['only', 'items'];

    /**
     * @param  list<string>|null  $on  names or ids of passes and bodies, or tags; null where the operation takes all that it can work on
     * @param  string|null  $tag  a name for what the step changed and made, for the `on` of later steps
     * @param  array<string, mixed>  $values  the parameters as plain values, lengths in mm
     */
    private function __construct(
        public string $op,
        public object $parameters,
        public ?array $on,
        public ?string $tag,
        public array $values,
    ) {
    }

    /**
     * @param  array<mixed>  $values  of the parameters, with `on` and `tag` among them
     * @param  float  $mm  millimetres of the unit that lengths are given in
     * @param  array<string, mixed>|null  $brief  for an operation that goes by the brief, where the values tell none
     *
     * @throws InvalidParameter
     */
    public static function of(string $op, array $values, float $mm = 1.0, ?array $brief = null): self
    {
        if ($brief !== null && ! isset($values['brief']) && self::takes($op, 'brief')) {
            $values['brief'] = $brief;
        }
        $about = Catalogue::operation($op)::about();
        foreach (self::OLD_NAMES as $old) {
            if (array_key_exists($old, $values)) {
                $values = ['on' => $values[$old]] + array_diff_key($values, [$old => 1]);
            }
        }
        $on = self::names($values['on'] ?? null);
        $tag = $values['tag'] ?? null;
        if ($tag !== null && (! is_string($tag) || $tag === '' || mb_strlen($tag) > ParamSpec::MOST_LETTERS)) {
            throw InvalidParameter::of('tag', 'must be a name');
        }
        if ($on !== null && $about->needs === 'nothing') {
            throw InvalidParameter::of('on', "is not a parameter of $op, which works on no pass and no body");
        }
        $values = array_diff_key($values, ['tag' => 1] + (self::isOwn($op) ? [] : ['on' => 1]));

        return new self($op, Catalogue::parameters($op, $values, $mm), $on, $tag, $values);
    }

    /** @return list<string>|null what of the workpiece the operation is given; null for all, also where it has an `on` of its own and looks for itself */
    public function limits(): ?array
    {
        return isset($this->values['on']) ? null : $this->on;
    }

    /** @return string|null the earlier step that it looks back at, see LooksBack */
    public function looksBackAt(): ?string
    {
        $operation = Catalogue::operation($this->op);

        return $operation instanceof LooksBack ? $operation::looksBackAt($this->parameters) : null;
    }

    /** What of a state an operation is given, as About::$needs says it: one with an `on` of its own looks for itself, among all that there is. */
    public static function given(string $op): string
    {
        return self::isOwn($op) ? 'any' : Catalogue::operation($op)::about()->needs;
    }

    /** Has the operation an `on` of its own? Then it must be told what to work on, and may be told of datums. */
    private static function isOwn(string $op): bool
    {
        return self::takes($op, 'on');
    }

    private static function takes(string $op, string $parameter): bool
    {
        return in_array($parameter, array_map(fn (ParamSpec $spec) => $spec->name, ParamSpec::ofClass(Catalogue::operation($op)::about()->parameters)), true);
    }

    /** @return list<string>|null */
    private static function names(mixed $on): ?array
    {
        if ($on === null) {
            return null;
        }
        if (! is_array($on) || $on === [] || array_filter($on, fn (mixed $name) => ! is_string($name)) !== []) {
            throw InvalidParameter::of('on', 'must be a list of one name or more; leave it out for all that the operation can work on');
        }

        return array_values(array_unique($on));
    }

    /**
     * Carries the step out. What it does not work on stays as it is.
     *
     * @param  array<string, list<string>>  $tags  ids by tag
     *
     * @throws InvalidParameter when `on` names what is not there
     * @throws UnsuitableInput|OperationCancelled see Operation
     */
    public function __invoke(Workpiece $all, Progress $progress, array $tags = []): Result
    {
        $operation = Catalogue::operation($this->op);
        if ($this->on === null) {
            $result = $operation($all, $this->parameters, $progress);
        } elseif (self::isOwn($this->op)) {
            $named = array_merge(...array_map(fn (string $name) => $tags[$name] ?? [$name], $this->on));
            $result = $operation($all, Catalogue::parameters($this->op, ['on' => $named] + $this->values), $progress);
        } else {
            $part = $this->part($all, $tags);
            $result = $operation($part, $this->parameters, $progress)->within($all, $part);
        }

        return $result->withDistinctNames($all);
    }

    /**
     * Those passes and bodies that it works on, all passes where it looks at these as well, and all datums.
     *
     * @param  array<string, list<string>>  $tags
     *
     * @throws InvalidParameter when it names what the operation does not work on
     */
    public function part(Workpiece $all, array $tags = []): Workpiece
    {
        $passes = $bodies = [];
        $about = Catalogue::operation($this->op)::about();
        $needs = $about->needs;
        foreach ($this->on ?? [] as $name) {
            foreach ($all->called($name, $tags) as $one) {
                $suits = match ($needs) {
                    'passes' => $one instanceof Pass,
                    'bodies' => $one instanceof Body,
                    'meshes' => $one instanceof Body && $one->isMesh(),
                    default => true,
                };
                // Of a tag, what suits; what is named by itself must.
                if (! $suits && ! isset($tags[$name])) {
                    throw InvalidParameter::of('on', sprintf('names "%s", which is a %s; %s works on %s', $name, $one instanceof Pass ? 'pass' : ($one->isMesh() ? 'mesh' : 'cloud'), $this->op, $needs));
                }
                if ($suits && $one instanceof Pass) {
                    $passes[$one->id] = $one;
                } elseif ($suits && $one instanceof Body) {
                    $bodies[$one->id] = $one;
                }
            }
        }

        // In their own order, whatever that of the names.
        return new Workpiece($about->seesPasses ? $all->passes : array_values(array_filter($all->passes, fn (Pass $pass) => isset($passes[$pass->id]))), array_values(array_filter($all->bodies, fn (Body $body) => isset($bodies[$body->id]))), $all->datums, $all->artefacts);
    }
}
