<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\TriangleMesh;

/** All formats, chosen by the file's ending. */
final class Formats
{
    /** @return list<FileFormat> */
    public static function all(): array
    {
        return [new Ply, new Stl, new Obj, new ThreeMf, new E57, new Gltf, new Off, new Xyz, new Ptx, new Zip, new Gzip];
    }

    /**
     * A format by its name in recipes.
     *
     * @throws InvalidParameter when it is none of ours
     */
    public static function named(string $name): FileFormat
    {
        foreach (self::all() as $format) {
            if (in_array(strtolower($name), $format->endings(), true)) {
                return $format;
            }
        }
        throw InvalidParameter::of('format', "is \"$name\"; Emberstone knows ".self::inWords());
    }

    /** All names of formats, for people. */
    private static function inWords(): string
    {
        return implode(', ', array_map(fn (FileFormat $format) => $format->name(), self::all()));
    }

    /**
     * Everything in the file as one, each thing where its pose puts it.
     *
     * @throws UnreadableFile
     */
    public static function read(string $path): Loaded
    {
        $things = self::each($path);
        $unit = $things[0]->unit;
        $first = $things[0]->placed();
        if (count($things) === 1) {
            return new Loaded($things[0]->format, $first, $unit, $things[0]->name, null, $things[0]->notes);
        }
        $placed = [];
        foreach ($things as $thing) {
            $geometry = $thing->placed();
            if ($geometry::class !== $first::class) {
                throw UnreadableFile::at($path, '', 'it holds clouds and meshes together, which cannot be read as one; read them one by one');
            }
            // Units differ only between the files of a zip.
            $factor = ($thing->unit ?? Unit::Millimetre)->inMillimetres() / ($unit ?? Unit::Millimetre)->inMillimetres();
            $placed[] = $geometry->scaled($factor);
        }
        $joined = $first instanceof TriangleMesh
            ? TriangleMesh::joined(array_values(array_filter($placed, fn ($one) => $one instanceof TriangleMesh)))
            : PointCloud::joined(array_values(array_filter($placed, fn ($one) => $one instanceof PointCloud)));

        return new Loaded($things[0]->format, $joined, $unit, '', null, array_merge(...array_map(fn (Loaded $thing) => $thing->notes, $things)));
    }

    /**
     * The things in the file one by one.
     *
     * @param  TextColumns|null  $columns  what the columns of a text file mean; other formats do not ask
     * @return non-empty-list<Loaded>
     *
     * @throws UnreadableFile
     */
    public static function each(string $path, ?TextColumns $columns = null): array
    {
        return self::formatOf($path, $columns)->read($path);
    }

    /**
     * A cloud straight into a blob, where its format can stream it; null where the file must be read whole.
     *
     * @throws UnreadableFile
     */
    public static function intoBlob(string $path, string $blob, ?TextColumns $columns = null): ?ReadThing
    {
        $format = self::formatOf($path, $columns);

        return $format instanceof StreamsClouds ? $format->intoBlob($path, $blob) : null;
    }

    private static function formatOf(string $path, ?TextColumns $columns): FileFormat
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
        try {
            $format = self::named(pathinfo($path, PATHINFO_EXTENSION));

            return $format instanceof Xyz && $columns !== null ? new Xyz($columns) : $format;
        } catch (InvalidParameter) {
            $kind = FileKind::of($path) ?? 'of no kind that is known here';
            throw UnreadableFile::at($path, '', "it is $kind. Bring in one of these: ".self::inWords());
        }
    }

    /**
     * Writes beside the target and renames, so that no half-written file is ever seen.
     *
     * @throws UnreadableFile when the folder cannot be written to
     */
    public static function write(string $path, TriangleMesh|PointCloud $geometry, ?WriteOptions $options = null): void
    {
        $format = self::named(pathinfo($path, PATHINFO_EXTENSION));
        $beside = $path.'.part'.getmypid();
        $stream = @fopen($beside, 'wb');
        if ($stream === false) {
            throw UnreadableFile::at($path, '', 'the folder cannot be written to');
        }
        try {
            $options ??= new WriteOptions;
            // Of the two endings of glTF this one means text.
            $format->write($stream, $geometry, strtolower(pathinfo($path, PATHINFO_EXTENSION)) === 'gltf' ? new WriteOptions(true, $options->unit) : $options);
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
