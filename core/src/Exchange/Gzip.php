<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;

/** A file packed with gzip, such as `pass-01.ply.gz`: read as the file in it. */
final class Gzip implements FileFormat
{
    /** Points and meshes pack to a tenth at best; what unpacks to more than this many times its size is a bomb. */
    private const RATIO = 100;

    private const LARGEST = 16 << 30;

    public function name(): string
    {
        return 'gz';
    }

    public function endings(): array
    {
        return ['gz'];
    }

    public function read(string $path): array
    {
        $inner = pathinfo($path, PATHINFO_FILENAME);
        $folder = sys_get_temp_dir().'/emberstone-gz-'.bin2hex(random_bytes(6));
        mkdir($folder, 0700);
        $file = "$folder/$inner";
        try {
            self::unpack($path, $file);

            return Formats::each($file);
        } finally {
            @unlink($file);
            rmdir($folder);
        }
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        throw UnsuitableInput::because('A packed file cannot be written; write the file and pack it afterwards.');
    }

    private static function unpack(string $path, string $file): void
    {
        $in = fopen($path, 'rb');
        $out = fopen($file, 'wb');
        $inflate = inflate_init(ZLIB_ENCODING_GZIP);
        assert($in !== false && $out !== false && $inflate !== false);
        $most = min(self::LARGEST, 1_000_000 + self::RATIO * (int) filesize($path));
        $read = $copied = 0;
        while (($packed = (string) fread($in, 1 << 18)) !== '' && inflate_get_status($inflate) === ZLIB_OK) {
            // Damage shows as a warning and false; saying it is ours.
            $piece = @inflate_add($inflate, $packed);
            if ($piece === false) {
                throw UnreadableFile::at($path, "after byte $read", 'the packed data are damaged; copy the file again');
            }
            fwrite($out, $piece);
            $read += strlen($packed);
            $copied += strlen($piece);
            if ($copied > $most) {
                throw UnreadableFile::at($path, '', 'it unpacks to more than '.self::RATIO.' times its size; that is no scan');
            }
        }
        fclose($in);
        fclose($out);
        if (inflate_get_status($inflate) !== ZLIB_STREAM_END) {
            throw UnreadableFile::at($path, "byte $read", 'the packed data end too early; copy the file again');
        }
    }
}
