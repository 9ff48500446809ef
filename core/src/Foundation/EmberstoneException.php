<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Everything the core throws on purpose. The message is one line a technician can act on. */
interface EmberstoneException extends \Throwable
{
}
