<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\UnreadableFile;

/**
 * The pages of an E57 file: 1024 bytes each, the last four a checksum of the others. Offsets in the file count the checksums
 * ("physical"), lengths do not ("logical").
 *
 * Source    ASTM E2807-11, sections 6 and 7; checksum CRC-32C, most significant byte first.
 *
 * @internal
 */
final class E57File
{
    public const PAGE = 1024;

    public const CONTENT = 1020;

    private const LARGEST_XML = 64 << 20;

    /** Pages read at once. */
    private const RUN = 256;

    private int $runPage = -1;

    private string $run = '';

    /** @param  resource  $stream */
    private function __construct(private readonly string $path, private $stream, private readonly int $pages, private readonly int $xmlOffset, private readonly int $xmlLength)
    {
    }

    /**
     * An E57 file with its XML part read; its points are read when asked for.
     *
     * @throws UnreadableFile when its head, pages or XML part are damaged or of another version
     */
    public static function open(string $path): self
    {
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        $head = (string) fread($stream, 48);
        if (strlen($head) < 48 || substr($head, 0, 8) !== 'ASTM-E57') {
            throw UnreadableFile::at($path, 'byte 0', 'an E57 file begins with "ASTM-E57"; this one does not');
        }
        /** @var array{major: int, minor: int, length: int, xml: int, xmlLength: int, page: int} $fields */
        $fields = unpack('Vmajor/Vminor/Plength/Pxml/PxmlLength/Ppage', $head, 8);
        if ($fields['major'] !== 1 || $fields['page'] !== self::PAGE) {
            throw UnreadableFile::at($path, 'byte 8', 'Emberstone reads version 1 of E57 with pages of 1024 bytes; this is another');
        }
        $size = (int) filesize($path);
        if ($fields['length'] > $size || $size % self::PAGE !== 0) {
            throw UnreadableFile::at($path, "byte $size", "the header promises {$fields['length']} bytes, but the file ends before them or in the middle of a page; copy it again");
        }
        if ($fields['xml'] < 48 || $fields['xml'] >= $size || $fields['xmlLength'] < 1 || $fields['xmlLength'] > min($size, self::LARGEST_XML)) {
            throw UnreadableFile::at($path, 'byte 24', 'the place of the XML part is outside the file');
        }

        return new self($path, $stream, intdiv($size, self::PAGE), $fields['xml'], $fields['xmlLength']);
    }

    public function close(): void
    {
        fclose($this->stream);
    }

    public function xml(): string
    {
        return $this->read($this->xmlOffset, $this->xmlLength);
    }

    /** The physical offset that lies $length content bytes after another. */
    public function after(int $offset, int $length): int
    {
        $at = intdiv($offset, self::PAGE) * self::CONTENT + $offset % self::PAGE + $length;

        return intdiv($at, self::CONTENT) * self::PAGE + $at % self::CONTENT;
    }

    /** @throws UnreadableFile when the file ends before, or a page does not match its checksum */
    public function read(int $offset, int $length): string
    {
        if ($offset < 0 || $length < 0 || $offset % self::PAGE >= self::CONTENT) {
            throw UnreadableFile::at($this->path, "byte $offset", 'an offset points outside the file or into a checksum');
        }
        $bytes = '';
        $page = intdiv($offset, self::PAGE);
        $from = $offset % self::PAGE;
        while ($length > 0) {
            if ($page < $this->runPage || $page >= $this->runPage + intdiv(strlen($this->run), self::CONTENT)) {
                $this->load($page);
            }
            $at = ($page - $this->runPage) * self::CONTENT + $from;
            $piece = substr($this->run, $at, $length);
            $bytes .= $piece;
            $length -= strlen($piece);
            $page = $this->runPage + intdiv(strlen($this->run), self::CONTENT);
            $from = 0;
        }

        return $bytes;
    }

    private function load(int $page): void
    {
        if ($page >= $this->pages) {
            throw UnreadableFile::at($this->path, 'byte '.$page * self::PAGE, 'the file ends before the data that it names');
        }
        fseek($this->stream, $page * self::PAGE);
        $raw = (string) fread($this->stream, self::RUN * self::PAGE);
        $this->run = '';
        $this->runPage = $page;
        for ($o = 0, $n = strlen($raw); $o + self::PAGE <= $n; $o += self::PAGE) {
            $content = substr($raw, $o, self::CONTENT);
            if (hash('crc32c', $content, true) !== substr($raw, $o + self::CONTENT, 4)) {
                throw UnreadableFile::at($this->path, 'byte '.($page * self::PAGE + $o), 'the page does not match its checksum; copy the file again');
            }
            $this->run .= $content;
        }
    }
}
