<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\TriangleMesh;

/** One open format: how to read it and how to write it. */
interface FileFormat
{
    /** The name used in reports and the first file ending, such as `ply`. */
    public function name(): string;

    /** @return list<string> file endings in lower case */
    public function endings(): array;

    /**
     * Everything in the file, each thing in its own coordinates with its pose.
     *
     * @return non-empty-list<Loaded>
     *
     * @throws UnreadableFile with the place and the reason
     */
    public function read(string $path): array;

    /**
     * Writes to an open stream.
     *
     * @param  resource  $stream
     */
    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void;
}
