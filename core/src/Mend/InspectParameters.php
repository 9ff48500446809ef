<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

final readonly class InspectParameters
{
    public function __construct()
    {
    }
}
