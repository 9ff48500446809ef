<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Parallel;

use Emberstone\Core\Algorithms\Parallel\ChildEnd;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class ForkTest extends TestCase
{
    /** @return list<callable(): string> each tells its number and the process it ran in */
    private static function tasks(int $many): array
    {
        return array_map(fn (int $k) => fn (): string => "$k ".getmypid(), array_keys(array_fill(0, $many, true)));
    }

    #[Test]
    #[TestWith([7, 1, 7])]
    #[TestWith([7, 3, 3])]
    #[TestWith([7, 100, 2])]
    #[TestWith([1, 100, 1])]
    #[TestWith([0, 5, 0])]
    public function results_come_in_order_from_as_few_children_as_asked_for(int $tasks, int $each, int $children): void
    {
        $results = array_map(fn (string $result) => explode(' ', $result), Fork::map(self::tasks($tasks), 2, each: $each));
        self::assertSame(array_map(strval(...), $tasks === 0 ? [] : range(0, $tasks - 1)), array_column($results, 0));
        self::assertCount($children, array_unique(array_column($results, 1)));
    }

    #[Test]
    public function one_that_fails_says_why_whatever_ran_beside_it(): void
    {
        $tasks = self::tasks(5);
        $tasks[2] = fn (): string => throw UnsuitableInput::because('The third one has no points.');
        $this->expectExceptionObject(UnsuitableInput::because('The third one has no points.'));
        Fork::map($tasks, 2, each: 2);
    }

    #[Test]
    public function an_answer_that_could_not_be_written_is_not_taken_for_done(): void
    {
        $tasks = self::tasks(3);
        $tasks[1] = function (): string {
            // Files of this child may hold 1,000 bytes: to it every folder is full.
            pcntl_signal(SIGXFSZ, SIG_IGN);
            posix_setrlimit(POSIX_RLIMIT_FSIZE, 1000, 1000);

            return str_repeat('x', 2_000_000);
        };
        try {
            Fork::map($tasks, 2);
            self::fail('it was taken for done');
        } catch (UnsuitableInput $refused) {
            self::assertStringContainsString('could not write its answer of 2.0 MB', $refused->getMessage());
            self::assertStringContainsString('Free some of it', $refused->getMessage());
        }
    }

    #[Test]
    public function a_child_that_was_killed_is_told_of_with_its_signal_and_memory_is_named_only_if_it_ran_out(): void
    {
        foreach ([SIGKILL => 'SIGKILL', SIGSEGV => 'SIGSEGV'] as $signal => $name) {
            try {
                Fork::map([...self::tasks(1), fn (): string => (string) posix_kill((int) getmypid(), $signal)], 2);
                self::fail('it did not fail');
            } catch (UnsuitableInput $problem) {
                self::assertMatchesRegularExpression("/^Worker process \\d+ was ended from outside \\(by $name\\)/", $problem->getMessage());
            }
        }
        $before = ChildEnd::killedForMemory();
        self::assertStringContainsString('ran out of memory', ChildEnd::ofSignal(1, SIGKILL, $before - 1));
        self::assertStringNotContainsString('memory', ChildEnd::ofSignal(1, SIGSEGV, $before - 1));
    }

    #[Test]
    public function answers_left_by_a_parent_that_was_killed_are_swept_and_no_others(): void
    {
        $folder = is_writable('/dev/shm') ? '/dev/shm' : sys_get_temp_dir();
        // No process has so high a number.
        [$left, $living] = ["$folder/emberstone-999999999-0123456789ab-3", "$folder/emberstone-".getmypid().'-0123456789ab-3'];
        touch($left);
        touch($living);
        Fork::sweep();
        self::assertFileDoesNotExist($left);
        self::assertFileExists($living);
        unlink($living);
    }

    #[Test]
    public function progress_tells_every_share_that_is_done_and_a_stop_ends_the_children(): void
    {
        $progress = new class implements Progress
        {
            /** @var list<float> */
            public array $told = [];

            public function __construct(public float $stopAt = INF)
            {
            }

            public function advance(string $stage, float $fraction): void
            {
                $this->told[] = $fraction;
                if ($fraction >= $this->stopAt) {
                    throw new OperationCancelled;
                }
            }
        };
        Fork::map(self::tasks(6), 2, $progress, 'counting', 2);
        self::assertSame([1.0], array_slice($progress->told, -1));
        $sorted = $progress->told;
        sort($sorted);
        self::assertSame($sorted, $progress->told);

        // These two stand still until they are ended.
        $never = fn (): string => (string) posix_kill((int) getmypid(), SIGSTOP);
        try {
            Fork::map([...self::tasks(2), $never, $never], 2, new $progress(0.5), 'counting');
            self::fail('it was not stopped');
        } catch (OperationCancelled) {
            self::assertSame(-1, pcntl_waitpid(-1, $status, WNOHANG), 'no child is left');
        }
    }
}
