<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Parallel;

use Emberstone\Core\Algorithms\Parallel\WorkerPool;
use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\UnsuitableInput;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class WorkerPoolTest extends TestCase
{
    private static function nothing(): void
    {
    }

    #[Test]
    #[TestWith([1])]
    #[TestWith([2])]
    #[TestWith([5])]
    public function everyone_answers_in_order_and_remembers_what_was_asked_before(int $workers): void
    {
        $heard = [];
        $crew = WorkerPool::of($workers, function (string $question, int $number, int $of) use (&$heard): string {
            $heard[] = $question;

            return "$number/$of ".implode(' ', $heard);
        });
        self::assertSame(array_map(fn (int $k) => "$k/$workers one", range(0, $workers - 1)), $crew->ask('one', self::nothing(...)));
        self::assertSame(array_map(fn (int $k) => "$k/$workers one two", range(0, $workers - 1)), $crew->ask('two', self::nothing(...)));
        self::assertSame(array_map(fn (int $k) => "$k/$workers one two ", range(0, $workers - 1)), $crew->ask('', self::nothing(...)));
        $crew->dismiss();
        self::assertSame(-1, pcntl_waitpid(-1, $status, WNOHANG), 'nobody is left');
    }

    #[Test]
    public function they_wait_for_the_next_question_however_long_streams_may_be_silent(): void
    {
        // No time at all instead of the usual minute.
        $usual = ini_set('default_socket_timeout', '0');
        try {
            $crew = WorkerPool::of(2, fn (string $question, int $number): string => $question.$number);
            for ($k = 0; $k < 20; $k++) {
                self::assertSame([$k.'0', $k.'1'], $crew->ask((string) $k, self::nothing(...)));
            }
        } finally {
            ini_set('default_socket_timeout', (string) $usual);
        }
    }

    #[Test]
    public function questions_and_answers_of_many_megabytes_come_through_whole(): void
    {
        $crew = WorkerPool::of(3, fn (string $question, int $number): string => str_repeat($question, 2).$number);
        $question = random_bytes(3_000_001);
        self::assertSame(array_map(fn (int $k) => md5($question.$question.$k), [0, 1, 2]), array_map(md5(...), $crew->ask($question, self::nothing(...))));
    }

    #[Test]
    public function one_that_fails_says_why_and_all_are_dismissed(): void
    {
        $crew = WorkerPool::of(2, fn (string $question, int $number): string => $number === 1 ? throw UnsuitableInput::because('The second one has no points.') : 'done');
        try {
            $crew->ask('?', self::nothing(...));
            self::fail('it did not fail');
        } catch (UnsuitableInput $problem) {
            self::assertSame('The second one has no points.', $problem->getMessage());
        }
        self::assertSame(-1, pcntl_waitpid(-1, $status, WNOHANG), 'nobody is left');
    }

    #[Test]
    public function one_that_ends_without_an_answer_is_told_of(): void
    {
        $crew = WorkerPool::of(2, fn (string $question, int $number): string => $number === 0 ? (string) posix_kill((int) getmypid(), SIGTERM) : 'done');
        try {
            $crew->ask('?', self::nothing(...));
            self::fail('it did not fail');
        } catch (UnsuitableInput $problem) {
            self::assertMatchesRegularExpression('/^Worker process \d+ was ended from outside \(by SIGTERM\)/', $problem->getMessage());
        }
        self::assertSame(-1, pcntl_waitpid(-1, $status, WNOHANG), 'nobody is left');
    }

    #[Test]
    public function a_stop_is_heard_while_they_work_and_ends_them(): void
    {
        // These stand still until they are ended.
        $crew = WorkerPool::of(2, fn (): string => (string) posix_kill((int) getmypid(), SIGSTOP));
        $breaths = 0;
        try {
            $crew->ask('?', function () use (&$breaths): void {
                if (++$breaths === 2) {
                    throw new OperationCancelled;
                }
            });
            self::fail('it was not stopped');
        } catch (OperationCancelled) {
            self::assertSame(-1, pcntl_waitpid(-1, $status, WNOHANG), 'nobody is left');
        }
    }
}
