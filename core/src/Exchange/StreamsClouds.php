<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\UnreadableFile;

/** A format whose clouds can be turned into a blob piece by piece, in memory that does not grow with the file. */
interface StreamsClouds
{
    /**
     * @param  string  $blob  path of the file to write
     * @return ReadThing|null null when this file must be read whole
     *
     * @throws UnreadableFile
     */
    public function intoBlob(string $path, string $blob): ?ReadThing;
}
