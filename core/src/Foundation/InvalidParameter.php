<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** The caller asked for something that cannot be meant. */
final class InvalidParameter extends \InvalidArgumentException implements EmberstoneException
{
    private function __construct(string $message, public readonly string $parameter)
    {
        parent::__construct($message);
    }

    public static function of(string $parameter, string $problem): self
    {
        return new self("$parameter $problem", $parameter);
    }

    /** A number beyond its bounds, both ends in; null leaves an end open. */
    public static function outOfRange(string $parameter, float|int $value, ?float $min, ?float $max): self
    {
        $range = match (true) {
            $min !== null && $max !== null => 'between '.self::number($min).' and '.self::number($max),
            $min !== null => 'at least '.self::number($min),
            default => 'at most '.self::number((float) $max),
        };

        return new self("$parameter is $value; it must be $range", $parameter);
    }

    private static function number(float $value): string
    {
        return rtrim(rtrim(sprintf('%.6F', $value), '0'), '.');
    }
}
