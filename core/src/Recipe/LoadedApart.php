<?php

declare(strict_types=1);

namespace Emberstone\Core\Recipe;

use Emberstone\Core\Cloud\CloudSource;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * A cloud that another process read from a file and put on disk; otherwise as Exchange\Loaded.
 *
 * @internal
 */
final readonly class LoadedApart
{
    public function __construct(public string $name, public ?Unit $unit, public RigidTransform $pose, public CloudSource $source)
    {
    }
}
