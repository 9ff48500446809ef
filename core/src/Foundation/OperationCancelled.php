<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Somebody pressed Stop. Inputs are as they were. */
final class OperationCancelled extends \RuntimeException implements EmberstoneException
{
    public static function onRequest(): self
    {
        return new self('Stopped on request; nothing was changed.');
    }
}
