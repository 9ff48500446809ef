<?php

declare(strict_types=1);

namespace Emberstone\Core\Console;

/** Words of a command line: operands in order, options by name. */
final readonly class Arguments
{
    /**
     * @param  list<string>  $operands
     * @param  array<string, string|true>  $options
     */
    private function __construct(public array $operands, public array $options)
    {
    }

    /**
     * @param  list<string>  $words
     * @param  array<string, bool>  $known  option => whether it takes a value
     *
     * @throws UsageError when an option is not known or lacks its value
     */
    public static function parse(array $words, array $known): self
    {
        $operands = $options = [];
        for ($i = 0; $i < count($words); $i++) {
            if (! str_starts_with($words[$i], '--')) {
                $operands[] = $words[$i];

                continue;
            }
            [$name, $value] = [...explode('=', substr($words[$i], 2), 2), null];
            if (! isset($known[$name])) {
                throw new UsageError("--$name is not an option here".($known === [] ? '' : '; there is --'.implode(', --', array_keys($known))));
            }
            if ($known[$name]) {
                $value ??= $words[++$i] ?? throw new UsageError("--$name needs a value");
            }
            $options[$name] = $value ?? true;
        }

        return new self($operands, $options);
    }

    public function value(string $name): ?string
    {
        $value = $this->options[$name] ?? null;

        return is_string($value) ? $value : null;
    }

    /**
     * An option as a whole number within bounds, both ends in; null when it was not given.
     *
     * @throws UsageError when it is none
     */
    public function wholeNumber(string $name, int $min, int $max): ?int
    {
        $value = $this->value($name);
        if ($value === null) {
            return null;
        }
        if (! preg_match('/^-?\d{1,15}$/', $value) || (int) $value < $min || (int) $value > $max) {
            throw new UsageError("--$name is \"$value\"; it must be a whole number from $min to $max");
        }

        return (int) $value;
    }
}
