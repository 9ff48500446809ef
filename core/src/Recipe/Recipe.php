<?php

declare(strict_types=1);

namespace Emberstone\Core\Recipe;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Unit;

/** A list of steps with parameters, checked whole before anything runs. */
final readonly class Recipe
{
    /**
     * @param  list<Step>  $steps
     * @param  string  $text  as it was given
     */
    private function __construct(public Unit $unit, public array $steps, public string $text)
    {
    }

    /** @throws InvalidParameter naming the step's number, the parameter and what is allowed */
    public static function fromJson(string $json): self
    {
        try {
            $data = json_decode($json, true, 64, JSON_THROW_ON_ERROR);
        } catch (\JsonException $problem) {
            throw InvalidParameter::of('recipe', 'is not JSON: '.$problem->getMessage());
        }
        if (! is_array($data) || ($data['recipe'] ?? null) !== 1) {
            throw InvalidParameter::of('recipe', 'must be an object with "recipe": 1');
        }
        foreach (array_keys($data) as $key) {
            if (! in_array($key, ['recipe', 'unit', 'steps', 'name'], true)) {
                throw InvalidParameter::of((string) $key, 'is not part of a recipe; it knows recipe, name, unit, steps');
            }
        }
        $unit = $data['unit'] ?? 'mm';
        $unit = is_string($unit) ? Unit::tryFrom($unit) : null;
        if ($unit === null) {
            throw InvalidParameter::of('unit', 'must be one of '.implode(', ', array_column(Unit::cases(), 'value')));
        }
        if (! is_array($data['steps'] ?? null) || ! array_is_list($data['steps']) || $data['steps'] === []) {
            throw InvalidParameter::of('steps', 'must be a list of one step or more');
        }

        return new self($unit, array_map(fn (mixed $step, int $index) => self::step($step, $index, $unit), $data['steps'], array_keys($data['steps'])), $json);
    }

    private static function step(mixed $step, int $index, Unit $unit): Step
    {
        $number = $index + 1;
        if (! is_array($step) || ! is_string($step['op'] ?? null)) {
            throw InvalidParameter::of("step $number", 'needs an "op"');
        }
        $op = $step['op'];
        unset($step['op']);
        try {
            return Step::of($op, $step, $unit->inMillimetres(), ['unit' => $unit->value]);
        } catch (InvalidParameter $problem) {
            throw InvalidParameter::of("step $number ($op):", $problem->getMessage());
        }
    }

    /** @return array<string, mixed> JSON Schema (2020-12) made from the #[Param] declarations */
    public static function schema(): array
    {
        $variants = [];
        foreach (Catalogue::describe() as $operation) {
            $properties = ['op' => ['const' => $operation['name']]];
            $required = ['op'];
            if ($operation['needs'] !== 'nothing') {
                $properties['on'] = ['title' => 'On', 'description' => 'Names of passes or bodies, or tags of earlier steps; all that the operation can work on, if left out.', 'type' => 'array', 'items' => ['type' => 'string'], 'minItems' => 1];
            }
            $properties['tag'] = ['title' => 'Tag', 'description' => 'A name for what the step changes and makes, for the "on" of later steps.', 'type' => 'string'];
            foreach ($operation['parameters'] as $parameter) {
                $properties[$parameter['name']] = self::schemaOf($parameter);
                if ($parameter['required']) {
                    $required[] = $parameter['name'];
                }
            }
            $variants[] = ['title' => $operation['label'], 'description' => $operation['help'], 'type' => 'object', 'properties' => $properties, 'required' => $required, 'additionalProperties' => false];
        }

        return [
            '$schema' => 'https://json-schema.org/draft/2020-12/schema',
            'title' => 'Emberstone recipe',
            'type' => 'object',
            'properties' => [
                'recipe' => ['const' => 1],
                'name' => ['type' => 'string'],
                'unit' => ['enum' => array_column(Unit::cases(), 'value'), 'default' => 'mm'],
                'steps' => ['type' => 'array', 'minItems' => 1, 'items' => ['oneOf' => $variants]],
            ],
            'required' => ['recipe', 'steps'],
            'additionalProperties' => false,
        ];
    }

    /**
     * JSON schema of one parameter of an operation.
     *
     * @param  array<string, mixed>  $parameter  as Catalogue::describe() gives it
     * @return array<string, mixed>
     */
    public static function schemaOf(array $parameter): array
    {
        $types = array_map(fn (string $type) => ['float' => 'number', 'int' => 'integer', 'bool' => 'boolean', 'string' => 'string', 'array' => 'array', 'null' => 'null'][$type], explode('|', $parameter['type']));
        // Objects come in as arrays too.
        if ($parameter['type'] === 'array|string' || in_array($parameter['picks'], ['box', 'fixture', 'construct'], true)) {
            $types = array_map(fn (string $type) => $type === 'array' ? 'object' : $type, $types);
        }
        if ($parameter['nullable']) {
            $types[] = 'null';
        }
        $schema = ['title' => $parameter['label'], 'description' => trim($parameter['help'].($parameter['unit'] === '' ? '' : " [{$parameter['unit']}]")), 'type' => count($types) === 1 ? $types[0] : $types];
        if ($parameter['choices'] !== []) {
            if ($parameter['type'] === 'array') {
                $schema['items'] = ['enum' => $parameter['choices']];
            } else {
                $schema['enum'] = $parameter['choices'];
            }
        }
        if ($parameter['min'] !== null) {
            $schema[$parameter['exclusiveMin'] ? 'exclusiveMinimum' : 'minimum'] = $parameter['min'];
        }
        if ($parameter['max'] !== null) {
            $schema['maximum'] = $parameter['max'];
        }
        if ($parameter['default'] !== null) {
            $schema['default'] = $parameter['default'];
        }

        return $schema;
    }
}
