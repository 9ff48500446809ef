<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** A file that cannot be read: which one, where in it, what is wrong. */
final class UnreadableFile extends \RuntimeException implements EmberstoneException
{
    private function __construct(string $message)
    {
        parent::__construct($message);
    }

    public static function at(string $file, string $place, string $problem): self
    {
        return new self(basename($file).($place === '' ? '' : ", $place").": $problem");
    }
}
