<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Which Emberstone this is, as it stands on what it makes. */
final class Version
{
    /** The same as in core/composer.json. */
    public const NUMBER = '0.1.0';
}
