<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;

/** A zip with the passes of a day: every file of a known format in it is read, in the order of names. */
final class Zip implements FileFormat
{
    /** Files that lie beside a model and are read by it. */
    private const COMPANIONS = ['bin'];

    public function name(): string
    {
        return 'zip';
    }

    public function endings(): array
    {
        return ['zip'];
    }

    public function read(string $path): array
    {
        $parts = ZipParts::open($path);
        $folder = sys_get_temp_dir().'/emberstone-zip-'.bin2hex(random_bytes(6));
        mkdir($folder, 0700);
        try {
            return $this->files($path, $parts, $folder);
        } finally {
            $parts->close();
            foreach (glob("$folder/{,.}*", GLOB_BRACE) ?: [] as $file) {
                is_file($file) && unlink($file);
            }
            rmdir($folder);
        }
    }

    /** @return non-empty-list<Loaded> */
    private function files(string $path, ZipParts $parts, string $folder): array
    {
        $names = array_values(array_filter($parts->names(), fn (string $name) => ! str_starts_with(basename($name), '.') && ! str_contains($name, '__MACOSX')));
        natsort($names);
        foreach ($names as $name) {
            if (in_array($this->ending($name), self::COMPANIONS, true)) {
                $parts->unpack($name, $folder.'/'.$this->plain($name));
            }
        }
        $things = $passedOver = [];
        $problem = null;
        foreach ($names as $name) {
            if (! in_array($this->ending($name), $this->readable(), true)) {
                continue;
            }
            $file = $folder.'/'.$this->plain($name);
            $parts->unpack($name, $file);
            try {
                foreach (Formats::each($file) as $thing) {
                    $things[] = $thing->named(pathinfo((string) preg_replace('/\.gz$/i', '', $name), PATHINFO_FILENAME).($thing->name === '' ? '' : ' '.$thing->name));
                }
            } catch (UnreadableFile $unreadable) {
                $passedOver[] = 'Passed over in '.basename($path).': '.$unreadable->getMessage().'.';
                $problem ??= $unreadable;
            } finally {
                unlink($file);
            }
        }
        if ($things === []) {
            throw $problem === null
                ? UnreadableFile::at($path, '', 'it holds no file that Emberstone reads')
                : UnreadableFile::at($path, 'in it', $problem->getMessage());
        }
        $things[0] = $things[0]->noting(...$passedOver);

        return $things;
    }

    private function ending(string $name): string
    {
        return strtolower(pathinfo($name, PATHINFO_EXTENSION));
    }

    /** The name alone, without any folder and without signs that a file name of ours could not bear. */
    private function plain(string $name): string
    {
        return (string) preg_replace('/[^\p{L}\p{N}._ ,()-]+/u', '_', mb_scrub(basename(strtr($name, '\\', '/'))));
    }

    /** @return list<string> everything but a zip in a zip */
    private function readable(): array
    {
        return array_values(array_diff(array_merge(...array_map(fn (FileFormat $format) => $format->endings(), Formats::all())), $this->endings()));
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        throw UnsuitableInput::because('A zip cannot be written; write the file and pack it afterwards.');
    }
}
