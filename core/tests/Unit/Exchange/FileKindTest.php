<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Exchange\FileKind;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\UnreadableFile;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class FileKindTest extends TestCase
{
    /** @return array<string, array{string, string}> */
    public static function files(): array
    {
        return [
            'invoice.pdf' => ["%PDF-1.7\n", 'a PDF document'], 'photo.jpeg' => ["\xFF\xD8\xFF\xE0\0\x10JFIF", 'a photograph'], 'cap.step' => ["ISO-10303-21;\nHEADER;", 'a STEP model'],
            'plan.dxf' => ["  0\nSECTION\n  2\nHEADER", 'a drawing (DXF)'], 'fixture.json' => ["\n{ \"heads\": [] }", 'JSON'], 'turn.mp4' => ["\0\0\0\x18ftypmp42", 'a film'], 'notes.odd' => ['press, mill and vat', 'of no kind that is known here'],
        ];
    }

    #[Test]
    #[DataProvider('files')]
    public function a_file_that_holds_no_scan_is_refused_with_what_it_is_and_what_could_be_brought_in(string $bytes, string $words): void
    {
        $path = sys_get_temp_dir().'/'.uniqid('kind-').'-'.$this->dataName();
        file_put_contents($path, $bytes);
        try {
            Formats::each($path);
            self::fail('read all the same');
        } catch (UnreadableFile $refused) {
            self::assertStringContainsString($words, $refused->getMessage());
            self::assertMatchesRegularExpression('/Bring in one of these: ply, stl, obj/', $refused->getMessage());
        } finally {
            unlink($path);
        }
    }

    #[Test]
    public function of_a_file_that_is_not_there_nothing_is_told(): void
    {
        self::assertNull(FileKind::of('/nowhere/at/all'));
    }
}
