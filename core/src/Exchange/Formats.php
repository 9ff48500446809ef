<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\UnreadableFile;

/** All formats, chosen by the file's ending. */
final class Formats
{
    /** @return list<FileFormat> */
    public static function all(): array
    {
        return [new Ply, new Stl, new Obj, new ThreeMf, new Off, new Xyz];
    }

    public static function named(string $name): FileFormat
    {
        foreach (self::all() as $format) {
            if (in_array(strtolower($name), $format->endings(), true)) {
                return $format;
            }
        }
        $known = implode(', ', array_map(fn (FileFormat $format) => $format->name(), self::all()));
        throw InvalidParameter::of('format', "is \"$name\"; Emberstone knows $known");
    }

    /** @throws UnreadableFile */
    public static function read(string $path): Loaded
    {
        if (! is_file($path)) {
            throw UnreadableFile::at($path, '', 'there is no such file');
        }
        if (! is_readable($path)) {
            throw UnreadableFile::at($path, '', 'the file may not be read; check its permissions');
        }
        if (filesize($path) === 0) {
            throw UnreadableFile::at($path, '', 'the file is empty; copy it again from the scanner');
        }
        $ending = pathinfo($path, PATHINFO_EXTENSION);
        if (strtolower($ending) === 'gz') {
            return Gzip::read($path);
        }
        try {
            $format = self::named($ending);
        } catch (InvalidParameter $unknown) {
            throw UnreadableFile::at($path, '', $unknown->getMessage());
        }

        return $format->read($path);
    }

    /** Writes beside the target and renames, so that no half-written file is ever seen. */
    public static function write(string $path, TriangleMesh|PointCloud $geometry, ?WriteOptions $options = null): void
    {
        $format = self::named(pathinfo($path, PATHINFO_EXTENSION));
        $beside = $path.'.part'.getmypid();
        $stream = @fopen($beside, 'wb');
        if ($stream === false) {
            throw UnreadableFile::at($path, '', 'the folder cannot be written to');
        }
        try {
            $format->write($stream, $geometry, $options ?? new WriteOptions);
            fclose($stream);
            rename($beside, $path);
        } finally {
            if (is_resource($stream)) {
                fclose($stream);
            }
            if (is_file($beside)) {
                unlink($beside);
            }
        }
    }
}
