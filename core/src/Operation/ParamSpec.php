<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\InvalidParameter;

/** A parameter as declared: its #[Param] joined with the type and default of the property. */
final readonly class ParamSpec
{
    public function __construct(
        public string $name,
        public string $type,
        public bool $nullable,
        public bool $required,
        public mixed $default,
        public Param $param,
    ) {
    }

    /**
     * Every parameter of a parameters class, in order.
     *
     * @param  class-string  $class
     * @return list<self>
     */
    public static function ofClass(string $class): array
    {
        $specs = [];
        foreach ((new \ReflectionClass($class))->getConstructor()?->getParameters() ?? [] as $parameter) {
            $attribute = $parameter->getAttributes(Param::class)[0] ?? null;
            $type = $parameter->getType();
            if ($attribute === null || $type === null) {
                continue;
            }
            $optional = $parameter->isDefaultValueAvailable();
            // Of a union reflection tells the nullable part as one of its types.
            $name = preg_replace('/^\?|\|null$/', '', (string) $type);
            $specs[] = new self(
                $parameter->getName(), (string) $name, $type->allowsNull(), ! $optional,
                $optional ? $parameter->getDefaultValue() : null, $attribute->newInstance(),
            );
        }

        return $specs;
    }

    /** Letters that a name or any other text may have, here and in the application. */
    public const MOST_LETTERS = 200;

    /** What is picked or typed as places and lengths: all numbers of it are lengths, but for those under the keys below. */
    private const PLACES = ['points', 'rims', 'clusters', 'pairs', 'lengths', 'box', 'target', 'construct', 'hold', 'typed', 'plane', 'axis', 'look', 'measured', 'strokes'];

    private const NO_LENGTHS = ['direction', 'normal', 'up', 'halfAngle', 'angle', 'turn'];

    /** Powers of a length in the units of parameters. */
    private const POWERS = ['mm' => 1, 'mm²' => 2];

    /** The same of what has the unit `measured`, by the kind of measurement; 1 for all others. */
    private const MEASURED = ['angle' => 0, 'area' => 2, 'volume' => 3];

    /**
     * A value that was given in another unit, in millimetres.
     *
     * @param  float  $mm  millimetres of a unit of it
     * @param  mixed  $kind  of a measurement, where the value has the unit of what is measured
     */
    public function inMillimetres(mixed $value, float $mm, mixed $kind = null): mixed
    {
        $power = $this->param->unit === 'measured' ? self::MEASURED[is_string($kind) ? $kind : ''] ?? 1 : self::POWERS[$this->param->unit] ?? (in_array($this->param->picks, self::PLACES, true) ? 1 : 0);

        return $mm === 1.0 || $power === 0 ? $value : self::times($value, $mm ** $power);
    }

    private static function times(mixed $value, float $factor): mixed
    {
        if (! is_array($value)) {
            return is_int($value) || is_float($value) ? $factor * $value : $value;
        }
        foreach ($value as $key => $part) {
            // A row of six is a place and a normal; a plane is turned about an axis by an angle.
            $isLength = ! in_array($key, self::NO_LENGTHS, true) && ! (count($value) === 6 && is_int($key) && $key > 2) && ! ($key === 'by' && ($value['how'] ?? null) === 'clock');
            $value[$key] = $isLength ? self::times($part, $factor) : $part;
        }

        return $value;
    }

    /**
     * The value as the property wants it.
     *
     * @throws InvalidParameter
     */
    public function accept(mixed $value): mixed
    {
        if ($value === null) {
            return $this->nullable ? null : throw InvalidParameter::of($this->name, 'is required');
        }
        $accepted = match ($this->type) {
            'float' => is_int($value) || is_float($value) ? (float) $value : throw InvalidParameter::of($this->name, 'must be a number'),
            'int' => is_int($value) || (is_float($value) && floor($value) === $value && abs($value) < 1e15) ? (int) $value : throw InvalidParameter::of($this->name, 'must be a whole number'),
            'bool' => is_bool($value) ? $value : throw InvalidParameter::of($this->name, 'must be true or false'),
            'string' => is_string($value) ? $value : throw InvalidParameter::of($this->name, 'must be a text'),
            'string|float' => is_string($value) ? $value : (is_int($value) || is_float($value) ? (float) $value : throw InvalidParameter::of($this->name, 'must be a word or a number')),
            'array|string' => is_string($value) || is_array($value) ? $value : throw InvalidParameter::of($this->name, 'must be a name, or an object'),
            'array' => is_array($value) ? $value : throw InvalidParameter::of($this->name, 'must be a list'),
            default => $value,
        };
        self::checkTexts($this->name, $accepted);
        if (is_float($accepted) && ! is_finite($accepted)) {
            throw InvalidParameter::of($this->name, 'must be a finite number');
        }
        foreach (is_array($accepted) && $this->param->choices !== [] ? $accepted : [] as $word) {
            if (! in_array($word, $this->param->choices, true)) {
                throw InvalidParameter::of($this->name, 'holds '.json_encode($word).'; it may hold '.implode(', ', $this->param->choices));
            }
        }
        if (is_int($accepted) || is_float($accepted)) {
            $this->checkRange($accepted);
        }
        if (is_string($accepted) && $this->param->choices !== [] && ! in_array($accepted, $this->param->choices, true)) {
            throw InvalidParameter::of($this->name, "is \"$accepted\"; it must be one of ".implode(', ', $this->param->choices));
        }

        return $accepted;
    }

    private static function checkTexts(string $name, mixed $value): void
    {
        if (is_string($value) && (mb_strlen($value) > self::MOST_LETTERS || str_contains($value, "\0") || ! mb_check_encoding($value, 'UTF-8'))) {
            throw InvalidParameter::of($name, sprintf('holds a text that is longer than %d letters, or that is none', self::MOST_LETTERS));
        }
        foreach (is_array($value) ? $value : [] as $part) {
            self::checkTexts($name, $part);
        }
    }

    private function checkRange(int|float $value): void
    {
        $p = $this->param;
        if ($p->positive && $value <= 0) {
            throw InvalidParameter::of($this->name, "is $value; it must be greater than 0".($p->max === null ? '' : " and at most $p->max"));
        }
        if (($p->min !== null && $value < $p->min) || ($p->max !== null && $value > $p->max)) {
            throw InvalidParameter::outOfRange($this->name, $value, $p->min, $p->max);
        }
    }
}
