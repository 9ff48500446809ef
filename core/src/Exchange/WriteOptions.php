<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Mesh\Look;

/** Choices a writer may honour. */
final readonly class WriteOptions
{
    public function __construct(public bool $ascii = false, public Unit $unit = Unit::Millimetre, public ?Look $look = null)
    {
    }
}
