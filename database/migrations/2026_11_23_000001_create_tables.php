<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('users', function (Blueprint $table): void {
            $table->id();
            $table->string('name');
            $table->string('email')->unique();
            $table->string('password');
            $table->rememberToken();
            $table->timestamps();
        });
        Schema::create('sessions', function (Blueprint $table): void {
            $table->string('id')->primary();
            $table->foreignId('user_id')->nullable()->index();
            $table->string('ip_address', 45)->nullable();
            $table->text('user_agent')->nullable();
            $table->longText('payload');
            $table->integer('last_activity')->index();
        });
        Schema::create('cache', function (Blueprint $table): void {
            $table->string('key')->primary();
            $table->mediumText('value');
            $table->integer('expiration');
        });
        Schema::create('cache_locks', function (Blueprint $table): void {
            $table->string('key')->primary();
            $table->string('owner');
            $table->integer('expiration');
        });
        Schema::create('jobs', function (Blueprint $table): void {
            $table->id();
            $table->string('queue')->index();
            $table->longText('payload');
            $table->unsignedTinyInteger('attempts');
            $table->unsignedInteger('reserved_at')->nullable();
            $table->unsignedInteger('available_at');
            $table->unsignedInteger('created_at');
        });
        Schema::create('failed_jobs', function (Blueprint $table): void {
            $table->id();
            $table->string('uuid')->unique();
            $table->text('connection');
            $table->text('queue');
            $table->longText('payload');
            $table->longText('exception');
            $table->timestamp('failed_at')->useCurrent();
        });
        Schema::create('projects', function (Blueprint $table): void {
            $table->uuid('id')->primary();
            $table->foreignId('owner_id')->constrained('users')->cascadeOnDelete();
            $table->string('name', 120);
            $table->jsonb('brief');
            $table->jsonb('labels');
            $table->jsonb('scale_confirmed')->nullable();
            $table->unsignedBigInteger('head_step_id')->nullable();
            $table->timestamps();
        });
        Schema::create('project_user', function (Blueprint $table): void {
            $table->foreignUuid('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->constrained()->cascadeOnDelete();
            $table->primary(['project_id', 'user_id']);
        });
        Schema::create('steps', function (Blueprint $table): void {
            $table->id();
            $table->foreignUuid('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('parent_id')->nullable()->constrained('steps')->nullOnDelete();
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->string('operation', 40);
            $table->jsonb('parameters');
            $table->jsonb('targets');
            $table->string('state', 12)->index();
            $table->double('progress');
            $table->string('doing')->nullable();
            $table->jsonb('snapshot')->nullable();
            $table->jsonb('figures')->nullable();
            $table->text('message')->nullable();
            $table->double('seconds')->nullable();
            $table->boolean('stop_asked');
            $table->timestamp('beat_at')->nullable();
            $table->timestamps();
            $table->index(['project_id', 'id']);
        });
        Schema::create('uploads', function (Blueprint $table): void {
            $table->uuid('id')->primary();
            $table->foreignUuid('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->constrained()->cascadeOnDelete();
            $table->string('name');
            $table->unsignedBigInteger('size');
            $table->unsignedBigInteger('received');
            $table->timestamps();
        });
        Schema::create('blobs', function (Blueprint $table): void {
            $table->char('hash', 64)->primary();
            $table->unsignedBigInteger('size');
            $table->timestamp('created_at')->useCurrent();
        });
        Schema::create('blob_chunks', function (Blueprint $table): void {
            $table->char('hash', 64);
            $table->integer('position');
            $table->binary('bytes');
            $table->primary(['hash', 'position']);
            $table->foreign('hash')->references('hash')->on('blobs')->cascadeOnDelete();
        });
        // Geometry does not compress; trying costs time at every write.
        DB::statement('ALTER TABLE blob_chunks ALTER COLUMN bytes SET STORAGE EXTERNAL');
    }

    public function down(): void
    {
        foreach (['blob_chunks', 'blobs', 'uploads', 'steps', 'project_user', 'projects', 'failed_jobs', 'jobs', 'cache_locks', 'cache', 'sessions', 'users'] as $table) {
            Schema::dropIfExists($table);
        }
    }
};
