# frozen_string_literal: true

# One question at a time in each process, which is killed where one takes longer than it may. What comes meanwhile waits
# in the socket, of which all processes take.
settings = EstrelServer.settings
workers settings.question_processes
preload_app!
threads 1, 1
queue_requests false
before_worker_boot { EstrelServer.started_as("questions") }
bind "unix://#{settings.questions_socket}?umask=0177"
worker_shutdown_timeout 5
# Puma takes a process for dead that computes for so long; the limit of a question comes before.
worker_timeout settings.question_seconds + 60
environment "production"
silence_single_worker_warning
