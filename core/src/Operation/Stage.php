<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/** The seven stages of the rail, in order. */
enum Stage: string
{
    case Gather = 'gather';
    case Register = 'register';
    case Fuse = 'fuse';
    case Mend = 'mend';
    case Lighten = 'lighten';
    case Orient = 'orient';
    case Deliver = 'deliver';
}
