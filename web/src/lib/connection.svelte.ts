/** Whether the server answers, and how often it has come back after it did not. */
class Connection {
  away = $state(false);
  returns = $state(0);

  lost(): void {
    this.away = true;
  }

  found(): void {
    if (this.away) this.returns += 1;
    this.away = false;
  }
}

export const connection = new Connection();
