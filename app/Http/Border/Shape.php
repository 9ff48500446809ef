<?php

declare(strict_types=1);

namespace App\Http\Border;

use Emberstone\Core\Operation\ParamSpec;
use LogicException;

/**
 * What a value that crosses the border of the application looks like. Written once, a shape gives Laravel's rules for what is sent, a check of what is answered, the OpenAPI
 * description, and the zod schema (and with it the type) of the window.
 */
final readonly class Shape
{
    /**
     * @param  string  $kind  text, uuid, email, hash, time, integer, number, boolean, choice, list, object, map, anything or named
     * @param  float|null  $least  of a number; letters of a text; entries of a list
     * @param  float|null  $most  likewise
     * @param  list<string>  $choices
     * @param  array<string, Shape>  $fields  of an object
     * @param  Shape|null  $of  entries of a list or map
     * @param  string  $name  of a named shape (see Shapes)
     */
    private function __construct(
        public string $kind,
        public ?float $least = null,
        public ?float $most = null,
        public array $choices = [],
        public array $fields = [],
        public ?Shape $of = null,
        public string $name = '',
        public bool $isOptional = false,
        public bool $isNullable = false,
        public bool $isAbove = false,
        public string $about = '',
    ) {
    }

    /** @param  int|null  $most  letters; null only of what the server says */
    public static function text(?int $most = ParamSpec::MOST_LETTERS, int $least = 0): self
    {
        return new self('text', $least, $most);
    }

    /** A short text of the server's own making. */
    public static function words(): self
    {
        return self::text(null);
    }

    /** The id of a thing. */
    public static function uuid(): self
    {
        return new self('uuid');
    }

    /** An address of electronic mail. */
    public static function email(): self
    {
        return new self('email', most: 255);
    }

    /** SHA-256 in hexadecimal: names a blob. */
    public static function hash(): self
    {
        return new self('hash');
    }

    /** A moment, ISO 8601. */
    public static function time(): self
    {
        return new self('time');
    }

    /** A whole number, with the bounds included. */
    public static function integer(?int $least = null, ?int $most = null): self
    {
        return new self('integer', $least, $most);
    }

    /** @param  bool  $isAbove  the least itself is not allowed */
    public static function number(?float $least = null, ?float $most = null, bool $isAbove = false): self
    {
        return new self('number', $least, $most, isAbove: $isAbove);
    }

    /** True or false. */
    public static function boolean(): self
    {
        return new self('boolean');
    }

    /** @param  list<string>  $choices */
    public static function choice(array $choices): self
    {
        return new self('choice', choices: $choices);
    }

    /**
     * @param  int  $least  entries
     * @param  int|null  $most  entries
     */
    public static function listOf(self $of, int $least = 0, ?int $most = null): self
    {
        return new self('list', $least, $most, of: $of);
    }

    /** Numbers of a fixed count: a place, a direction, a matrix row by row. */
    public static function numbers(int $count): self
    {
        return self::listOf(self::number(), $count, $count);
    }

    /** @param  array<string, Shape>  $fields */
    public static function object(array $fields): self
    {
        return new self('object', fields: $fields);
    }

    /** Keys that are not known before, each with a value of one shape. */
    public static function map(self $of, ?int $most = null): self
    {
        return new self('map', most: $most, of: $of);
    }

    /** Whatever JSON holds: it is checked further in. */
    public static function anything(): self
    {
        return new self('anything');
    }

    /** One of Shapes. */
    public static function named(string $name): self
    {
        return new self('named', name: $name);
    }

    /** May be left out. */
    public function optional(): self
    {
        return $this->with(['isOptional' => true]);
    }

    /** May be null. */
    public function nullable(): self
    {
        return $this->with(['isNullable' => true]);
    }

    /** A sentence for who reads the types or the description. */
    public function about(string $about): self
    {
        return $this->with(['about' => $about]);
    }

    /** @param  array<string, mixed>  $changes */
    private function with(array $changes): self
    {
        return new self(...[...get_object_vars($this), ...$changes]);
    }

    /**
     * Laravel's rules for this shape under a name, and for what it holds under names with dots.
     *
     * @param  bool  $isField  of an object that says itself which fields it must have: it may be null or left out, and they with it
     * @return array<string, list<string>>
     */
    public function rules(string $at = '', bool $isField = false): array
    {
        // Laravel's "required" refuses empty lists.
        $mayBeEmpty = $this->isNullable || in_array($this->kind, ['boolean', 'map', 'object', 'anything'], true) || ($this->kind === 'list' && (int) $this->least === 0);
        $own = match (true) {
            $this->isOptional, $isField && $mayBeEmpty => ['sometimes'],
            $isField => ['filled'],
            default => [$mayBeEmpty ? 'present' : 'required'],
        };
        if ($this->isNullable) {
            $own[] = 'nullable';
        }
        $bounds = array_merge($this->least === null || $this->least <= 0.0 && $this->kind !== 'number' && $this->kind !== 'integer' ? [] : [($this->isAbove ? 'gt:' : 'min:').self::figure($this->least)], $this->most === null ? [] : ['max:'.self::figure($this->most)]);
        $own = [...$own, ...match ($this->kind) {
            'text' => ['string', ...$bounds],
            'uuid' => ['uuid'],
            'email' => ['email', ...$bounds],
            'hash' => ['string', 'regex:/^[0-9a-f]{64}$/'],
            'time' => ['date'],
            'integer' => ['integer', ...$bounds],
            'number' => ['numeric', ...$bounds],
            'boolean' => ['boolean'],
            'choice' => ['string', 'in:'.implode(',', array_map(fn (string $one) => '"'.str_replace('"', '""', $one).'"', $this->choices))],
            'list' => ['list', ...$bounds],
            'map' => ['array', ...$bounds],
            'object' => ['array', ...($must = array_keys(array_filter($this->fields, fn (Shape $field) => ! $field->isOptional))) === [] ? [] : ['required_array_keys:'.implode(',', $must)]],
            'anything' => [],
            default => throw new LogicException("a request holds nothing of the kind $this->kind"),
        }];
        $rules = $at === '' ? [] : [$at => $own];
        $under = $at === '' ? '' : "$at.";
        foreach ($this->fields as $name => $field) {
            $rules += $field->rules($under.$name, isField: $at !== '');
        }

        return $this->of === null || $this->of->kind === 'anything' ? $rules : $rules + $this->of->rules("$under*");
    }

    private static function figure(float $value): string
    {
        return json_encode($value === floor($value) ? (int) $value : $value, JSON_THROW_ON_ERROR);
    }

    /**
     * What is wrong with a value decoded from JSON with objects as arrays; fields that the shape does not know are wrong too.
     *
     * @return list<string> a sentence each
     */
    public function mistakes(mixed $value, string $at = 'the answer'): array
    {
        if ($value === null) {
            return $this->isNullable || $this->kind === 'anything' || ($this->kind === 'named' && Shapes::of($this->name)->isNullable) ? [] : ["$at is null"];
        }
        $is = match ($this->kind) {
            'text', 'email' => is_string($value),
            'uuid' => is_string($value) && preg_match('/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/', $value) === 1,
            'hash' => is_string($value) && preg_match('/^[0-9a-f]{64}$/', $value) === 1,
            'time' => is_string($value) && strtotime($value) !== false,
            'integer' => is_int($value),
            'number' => is_int($value) || is_float($value),
            'boolean' => is_bool($value),
            'choice' => in_array($value, $this->choices, true),
            'list' => is_array($value) && array_is_list($value) && count($value) >= (int) $this->least && ($this->most === null || count($value) <= $this->most),
            'object', 'map' => is_array($value),
            default => true,
        };
        if (! $is) {
            return ["$at is no $this->kind: ".substr((string) json_encode($value), 0, 80)];
        }
        $wrong = [];
        switch ($this->kind) {
            case 'named':
                return Shapes::of($this->name)->mistakes($value, $at);
            case 'list':
            case 'map':
                foreach ($value as $k => $part) {
                    array_push($wrong, ...$this->of?->mistakes($part, "$at.$k") ?? []);
                }
                break;
            case 'object':
                foreach ($this->fields as $name => $field) {
                    if (array_key_exists($name, $value)) {
                        array_push($wrong, ...$field->mistakes($value[$name], "$at.$name"));
                    } elseif (! $field->isOptional) {
                        $wrong[] = "$at has no $name";
                    }
                }
                foreach (array_keys(array_diff_key($value, $this->fields)) as $name) {
                    $wrong[] = "$at has $name, which its shape does not know";
                }
                break;
        }

        return $wrong;
    }

    /** A value without the fields that its shape does not know: what is kept for the server alone is not sent. */
    public function only(mixed $value): mixed
    {
        if (! is_array($value)) {
            return $value;
        }

        return match ($this->kind) {
            'named' => Shapes::of($this->name)->only($value),
            'list' => array_map(fn (mixed $part) => $this->of?->only($part), $value),
            // Without keys it would be a list in JSON.
            'map' => (object) array_map(fn (mixed $part) => $this->of?->only($part), $value),
            'object' => array_combine(
                $known = array_values(array_intersect(array_keys($this->fields), array_keys($value))),
                array_map(fn (string $name) => $this->fields[$name]->only($value[$name]), $known),
            ),
            default => $value,
        };
    }

    /** @return array<string, mixed>|object JSON schema as OpenAPI 3.1 takes it */
    public function schema(): array|object
    {
        $bounded = fn (string $least, string $most): array => array_filter([$least => $this->least === null ? null : json_decode(self::figure($this->least)), $most => $this->most === null ? null : json_decode(self::figure($this->most))], fn (mixed $bound) => $bound !== null && $bound !== 0);
        $is = match ($this->kind) {
            'text' => ['type' => 'string', ...$bounded('minLength', 'maxLength')],
            'uuid' => ['type' => 'string', 'format' => 'uuid'],
            'email' => ['type' => 'string', 'format' => 'email'],
            'hash' => ['type' => 'string', 'pattern' => '^[0-9a-f]{64}$'],
            'time' => ['type' => 'string', 'format' => 'date-time'],
            'integer', 'number' => ['type' => $this->kind, ...$bounded($this->isAbove ? 'exclusiveMinimum' : 'minimum', 'maximum')],
            'boolean' => ['type' => 'boolean'],
            'choice' => ['enum' => $this->choices],
            'list' => ['type' => 'array', 'items' => $this->of?->schema(), ...$bounded('minItems', 'maxItems')],
            'object' => array_filter(['type' => 'object', 'properties' => (object) array_map(fn (Shape $field) => $field->schema(), $this->fields), 'required' => array_keys(array_filter($this->fields, fn (Shape $field) => ! $field->isOptional))], fn (mixed $part) => $part !== []),
            'map' => ['type' => 'object', 'additionalProperties' => $this->of?->schema(), ...$bounded('minProperties', 'maxProperties')],
            'named' => ['$ref' => "#/components/schemas/$this->name"],
            default => [],
        };
        if ($this->isNullable) {
            $is = isset($is['type']) ? ['type' => [$is['type'], 'null']] + $is : ['anyOf' => [$is, ['type' => 'null']]];
        }
        if ($this->about !== '') {
            $is['description'] = $this->about;
        }

        return $is === [] ? (object) [] : $is;
    }

    /** The schema of the window's parser, zod; objects let fields pass that a newer server adds. */
    public function zod(string $indent = ''): string
    {
        $in = "$indent  ";
        $zod = match ($this->kind) {
            'integer' => 'z.int()',
            'number' => 'z.number()',
            'boolean' => 'z.boolean()',
            'choice' => 'z.enum(['.implode(', ', array_map(self::quoted(...), $this->choices)).'])',
            'list' => match (true) {
                $this->of?->kind === 'number' && $this->least === 3.0 && $this->most === 3.0 => 'place',
                default => 'z.array('.$this->of?->zod($indent).')',
            },
            'object' => "z.object({\n".implode('', array_map(fn (string $name, Shape $field) => ($field->about === '' ? '' : "$in/** $field->about */\n")."$in$name: {$field->zod($in)},\n", array_keys($this->fields), $this->fields))."$indent})",
            'map' => 'z.record(z.string(), '.$this->of?->zod($indent).')',
            'anything' => 'z.unknown()',
            'named' => lcfirst($this->name),
            default => 'z.string()',
        };

        return $zod.($this->isNullable ? '.nullable()' : '').($this->isOptional ? '.optional()' : '');
    }

    private static function quoted(string $word): string
    {
        return "'".addcslashes($word, "'\\")."'";
    }
}
