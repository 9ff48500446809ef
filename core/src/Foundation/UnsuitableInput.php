<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** The data do not allow the operation. `highlight` holds places (flat xyz, mm) worth showing. */
final class UnsuitableInput extends \RuntimeException implements EmberstoneException
{
    /** @param  list<float>  $highlight */
    private function __construct(string $message, public readonly array $highlight = [])
    {
        parent::__construct($message);
    }

    /** @param  list<float>  $highlight */
    public static function because(string $reason, array $highlight = []): self
    {
        return new self($reason, $highlight);
    }
}
