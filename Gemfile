# frozen_string_literal: true

source "https://rubygems.org"

# Core: the rules and all computation
gem "json_schemer", "~> 2.5"
gem "polars-df", "~> 0.15.0"
gem "tzinfo", "~> 2.0"
gem "tzinfo-data", "~> 1.2026"
gem "zeitwerk", "~> 2.6.0"

# Server
gem "activerecord", "~> 7.2.0"
gem "base64", "~> 0.3"
gem "bcrypt", "~> 3.1"
gem "bootsnap", "~> 1.26"
gem "cloud_events", "~> 0.9.0"
gem "csv", "~> 3.3"
gem "delayed_job_active_record", "~> 4.1"
gem "json", "~> 3.1"
gem "nats-pure", "~> 2.5"
gem "openid_connect", "~> 2.3"
gem "openssl", "~> 3.3"
gem "prometheus-client", "~> 4.2"
gem "puma", "~> 8.0"
gem "rack-attack", "~> 6.7"
gem "rotp", "~> 6.3"
gem "rqrcode_core", "~> 2.0"
gem "sinatra", "~> 4.2"
gem "thor", "~> 1.3"
gem "trilogy", "~> 2.13.0"
gem "tty-progressbar", "~> 0.18"
gem "webauthn", "~> 3.4"
gem "xsv", "~> 1.3.0"
gem "zxcvbn", "~> 1.0"

# The messaging stand-in, and the specs: an implementation of Standard Webhooks that is not ours
gem "standardwebhooks", "~> 1.0.0"

group :test do
  gem "axe-core-rspec", "~> 4.10"
  gem "capybara", "~> 3.40.0"
  gem "rack-test", "~> 2.2"
  gem "rspec", "~> 3.13"
  gem "rubocop", "~> 1.75", require: false
  gem "rubocop-performance", "~> 1.25", require: false
  gem "rubocop-rspec", "~> 3.6", require: false
  gem "selenium-webdriver", "~> 4.32.0"
end
