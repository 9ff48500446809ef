<?php

declare(strict_types=1);

namespace Emberstone\Core\Console;

/** The call is wrong; the message says what would be right. */
final class UsageError extends \RuntimeException
{
}
