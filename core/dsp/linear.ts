/** Solves a system of linear equations by elimination with the largest pivot. @param rows n rows of n + 1, changed */
export function solved(rows: number[][]): number[] {
  const n = rows.length;
  for (let k = 0; k < n; k++) {
    let top = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(rows[i][k]) > Math.abs(rows[top][k])) top = i;
    [rows[k], rows[top]] = [rows[top], rows[k]];
    if (rows[k][k] === 0) continue;
    for (let i = k + 1; i < n; i++) {
      const share = rows[i][k] / rows[k][k];
      for (let j = k; j <= n; j++) rows[i][j] -= share * rows[k][j];
    }
  }
  const x = new Array<number>(n).fill(0);
  for (let k = n - 1; k >= 0; k--) {
    let sum = rows[k][n];
    for (let j = k + 1; j < n; j++) sum -= rows[k][j] * x[j];
    x[k] = rows[k][k] === 0 ? 0 : sum / rows[k][k];
  }
  return x;
}
