<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Services\UploadParts;
use Emberstone\Core\Foundation\UnsuitableInput;
use PHPUnit\Framework\Attributes\After;
use PHPUnit\Framework\Attributes\Before;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Bytes of an upload: taken over part by part, joined when they are read. */
final class UploadPartsTest extends TestCase
{
    private string $path;

    #[Before]
    public function folder(): void
    {
        $this->path = tempnam(sys_get_temp_dir(), 'upload');
    }

    #[After]
    public function clear(): void
    {
        (new UploadParts($this->path))->remove();
        self::assertSame([], glob($this->path.'*'));
    }

    /** What the web server stores, and takes away after the request. */
    private function stored(string $bytes): string
    {
        $file = $this->path.'-body';
        file_put_contents($file, $bytes);

        return $file;
    }

    #[Test]
    public function parts_are_joined_in_their_order_when_somebody_reads_them(): void
    {
        $parts = new UploadParts($this->path);
        $expected = '';
        foreach (['first ', 'second ', '', 'third'] as $k => $bytes) {
            $body = $this->stored($bytes);
            if ($k === 1) {
                $stream = fopen($body, 'rb');
                $parts->take($stream, 100);
            } else {
                $parts->take($body, 100);
            }
            unlink($body);
            $expected .= $bytes;
            self::assertSame(strlen($expected), $parts->size());
        }
        self::assertSame($expected, file_get_contents($parts->whole()));
        self::assertSame([$this->path], glob($this->path.'*'), 'no part is left');
        $parts->take($this->stored(' and more'), 4);
        unlink($this->path.'-body');
        self::assertSame($expected.' and', file_get_contents($parts->whole()), 'never more than was announced');
    }

    #[Test]
    public function joining_that_was_cut_off_goes_on(): void
    {
        $parts = new UploadParts($this->path);
        foreach (['abc', 'defgh', 'ij'] as $bytes) {
            $parts->take($this->stored($bytes), 100);
            unlink($this->path.'-body');
        }
        // Killed in the middle of the second part: the file holds half of it, the part is still there.
        $second = glob($this->path.'.part-*3')[0];
        $first = glob($this->path.'.part-*0')[0];
        file_put_contents($this->path, 'abcde');
        unlink($first);
        self::assertFileExists($second);
        self::assertSame(10, $parts->size());
        self::assertSame('abcdefghij', file_get_contents($parts->whole()));
    }

    #[Test]
    public function a_disk_that_is_full_costs_no_part(): void
    {
        $parts = new UploadParts($this->path);
        $parts->take($this->stored('all of it'), 100);
        unlink($this->path.'-body');
        // Linux has a device that is always full.
        unlink($this->path);
        symlink('/dev/full', $this->path);
        try {
            @$parts->whole();
            self::fail('nothing can be written there');
        } catch (UnsuitableInput $refusal) {
            self::assertStringContainsString('Free some space', $refusal->getMessage());
        }
        unlink($this->path);
        touch($this->path);
        self::assertSame('all of it', file_get_contents($parts->whole()));
    }

    #[Test]
    public function what_was_removed_is_not_made_anew_by_who_still_reads_it(): void
    {
        $parts = new UploadParts($this->path);
        $parts->take($this->stored('all of it'), 100);
        unlink($this->path.'-body');
        $parts->remove();
        self::assertSame([], glob($this->path.'*'));
        try {
            $parts->whole();
            self::fail('it is gone');
        } catch (UnsuitableInput $refusal) {
            self::assertStringContainsString('not there any more', $refusal->getMessage());
        }
        self::assertSame([], glob($this->path.'*'));
    }

    #[Test]
    public function only_one_connection_at_a_time_holds_the_lock(): void
    {
        $parts = new UploadParts($this->path);
        $held = $parts->locked(LOCK_EX | LOCK_NB);
        self::assertIsResource($held);
        self::assertNull($parts->locked(LOCK_EX | LOCK_NB));
        fclose($held);
        self::assertIsResource($parts->locked(LOCK_EX | LOCK_NB));
    }
}
