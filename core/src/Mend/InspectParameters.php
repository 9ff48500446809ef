<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

/** What `inspect` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class InspectParameters
{
    public function __construct()
    {
    }
}
