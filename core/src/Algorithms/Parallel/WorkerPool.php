<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Parallel;

use Emberstone\Core\Foundation\UnsuitableInput;

/**
 * Processes that are asked again and again and keep what they found from one question to the next, where Fork's end with their task.
 *
 * Each begins with all that the parent holds when it is started.
 */
final class WorkerPool
{
    /** Microseconds within which a stop is heard. */
    private const SLICE = 200_000;

    /** Bytes read or written at once. */
    private const PIECE = 1 << 20;

    /** @var array<int, resource> sockets to the children, by process */
    private array $sockets = [];

    private readonly int $killedBefore;

    /** @param  \Closure(string, int, int): string  $answer */
    private function __construct(
        private readonly \Closure $answer,
        private readonly int $workers,
    ) {
        $this->killedBefore = ChildEnd::killedForMemory();
    }

    /**
     * @param  \Closure(string, int, int): string  $answer  to a question, by the worker with the first number, of as many as the second says; called in that one's process, or here where there is only one
     */
    public static function of(int $workers, \Closure $answer): self
    {
        $crew = new self($answer, function_exists('pcntl_fork') ? max(1, $workers) : 1);
        for ($k = 0; $crew->workers > 1 && $k < $crew->workers; $k++) {
            $crew->hire($k);
        }

        return $crew;
    }

    private function hire(int $number): void
    {
        $pair = stream_socket_pair(STREAM_PF_UNIX, STREAM_SOCK_STREAM, STREAM_IPPROTO_IP);
        $pid = $pair === false ? -1 : pcntl_fork();
        if ($pair === false || $pid === -1) {
            $this->dismiss();
            throw UnsuitableInput::because('The machine would not start another process; try again with one worker.');
        }
        // One that was not asked anything for a minute would take the silence for the end (default_socket_timeout).
        array_map(fn ($end) => stream_set_timeout($end, -1), $pair);
        if ($pid === 0) {
            // Ends of sockets that are the parent's: held here as well, they would keep the others waiting for it for ever.
            array_map(fclose(...), [$pair[0], ...$this->sockets]);
            $this->work($pair[1], $number);
        }
        fclose($pair[1]);
        $this->sockets[$pid] = $pair[0];
    }

    /** @param  resource  $socket */
    private function work($socket, int $number): never
    {
        // A stop meant for the parent must not run the parent's handlers here.
        pcntl_signal(SIGTERM, SIG_DFL);
        pcntl_signal(SIGINT, SIG_DFL);
        while (($question = self::read($socket)) !== null) {
            try {
                $answer = '+'.($this->answer)($question, $number, $this->workers);
            } catch (\Throwable $problem) {
                $answer = '-'.$problem->getMessage();
            }
            self::write($socket, $answer);
        }
        // Not exit(): see Fork.
        posix_kill((int) getmypid(), SIGKILL);
        exit(1);
    }

    /**
     * Asks everyone the same.
     *
     * @param  callable(): void  $breathe  called while they work; may throw to stop
     * @return list<string> their answers, in order
     *
     * @throws UnsuitableInput when one could not answer, or ended; all are dismissed then
     */
    public function ask(string $question, callable $breathe): array
    {
        if ($this->workers === 1) {
            return [($this->answer)($question, 0, 1)];
        }
        try {
            foreach ($this->sockets as $socket) {
                self::write($socket, $question);
            }
            $answers = [];
            foreach ($this->sockets as $pid => $socket) {
                do {
                    $breathe();
                    [$ready, $none, $nor] = [[$socket], null, null];
                    // Interrupted by a signal it gives false, with a warning.
                } while (@stream_select($ready, $none, $nor, 0, self::SLICE) !== 1);
                $answer = self::read($socket);
                if ($answer === null) {
                    // It has closed its end, so it has ended or is about to.
                    $status = 0;
                    pcntl_waitpid($pid, $status);
                    fclose($socket);
                    unset($this->sockets[$pid]);
                    throw UnsuitableInput::because(ChildEnd::words($pid, $status, $this->killedBefore));
                }
                if ($answer[0] === '-') {
                    throw UnsuitableInput::because(substr($answer, 1));
                }
                $answers[] = substr($answer, 1);
            }

            return $answers;
        } catch (\Throwable $problem) {
            $this->dismiss();
            throw $problem;
        }
    }

    /** Ends them; done by itself when nobody holds the crew any more. */
    public function dismiss(): void
    {
        foreach ($this->sockets as $pid => $socket) {
            fclose($socket);
            posix_kill($pid, SIGKILL);
            pcntl_waitpid($pid, $status);
        }
        $this->sockets = [];
    }

    public function __destruct()
    {
        $this->dismiss();
    }

    /** @param  resource  $socket */
    private static function write($socket, string $bytes): void
    {
        $bytes = pack('P', strlen($bytes)).$bytes;
        for ($done = 0, $all = strlen($bytes); $done < $all; $done += $wrote) {
            // To a reader that has ended it gives false, with a notice; that it has ended is seen when it is read from.
            $wrote = @fwrite($socket, substr($bytes, $done, self::PIECE));
            if ($wrote === false || $wrote === 0) {
                return;
            }
        }
    }

    /**
     * @param  resource  $socket
     * @return string|null null when the other end was closed
     */
    private static function read($socket): ?string
    {
        $bytes = '';
        $all = 8;
        while (strlen($bytes) < $all) {
            $piece = fread($socket, max(1, min(self::PIECE, $all - strlen($bytes))));
            // A signal may end a wait with nothing read.
            if ($piece === false || ($piece === '' && feof($socket))) {
                return null;
            }
            $bytes .= $piece;
            if ($all === 8 && strlen($bytes) === 8) {
                /** @var array{1: int} $length */
                $length = unpack('P', $bytes);
                $all += $length[1];
            }
        }

        return substr($bytes, 8);
    }
}
